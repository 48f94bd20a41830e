#include "core/image/ffmpeg_image.h"

#include "core/error.h"
#include "core/image/scene_light.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavutil/imgutils.h>
#include <libavutil/pixdesc.h>
}

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

namespace yarngap {

namespace {

constexpr AVPixelFormat nativeEndian(AVPixelFormat little, AVPixelFormat big) {
    return std::endian::native == std::endian::little ? little : big;
}
#define YARNGAP_NE(name) nativeEndian(AV_PIX_FMT_##name##LE, AV_PIX_FMT_##name##BE)

struct Known {
    AVPixelFormat format;
    PixelLayout layout;
};

/// Every planar format that pictures are worked on in.
const std::vector<Known>& known() {
    static const std::vector<Known> table = [] {
        std::vector<Known> t;
        const auto add = [&t](AVPixelFormat f, ColourModel m, int depth, int sx, int sy, bool alpha = false) {
            t.push_back({f, {m, alpha, depth, sx, sy}});
        };
        using enum ColourModel;
        add(AV_PIX_FMT_GRAY8, grey, 8, 0, 0);
        add(YARNGAP_NE(GRAY9), grey, 9, 0, 0);
        add(YARNGAP_NE(GRAY10), grey, 10, 0, 0);
        add(YARNGAP_NE(GRAY12), grey, 12, 0, 0);
        add(YARNGAP_NE(GRAY14), grey, 14, 0, 0);
        add(YARNGAP_NE(GRAY16), grey, 16, 0, 0);
        add(AV_PIX_FMT_YUV410P, yuv, 8, 2, 2);
        add(AV_PIX_FMT_YUV411P, yuv, 8, 2, 0);
        add(AV_PIX_FMT_YUV440P, yuv, 8, 0, 1);
        add(AV_PIX_FMT_YUV420P, yuv, 8, 1, 1);
        add(AV_PIX_FMT_YUV422P, yuv, 8, 1, 0);
        add(AV_PIX_FMT_YUV444P, yuv, 8, 0, 0);
        add(YARNGAP_NE(YUV420P9), yuv, 9, 1, 1);
        add(YARNGAP_NE(YUV422P9), yuv, 9, 1, 0);
        add(YARNGAP_NE(YUV444P9), yuv, 9, 0, 0);
        add(YARNGAP_NE(YUV420P10), yuv, 10, 1, 1);
        add(YARNGAP_NE(YUV422P10), yuv, 10, 1, 0);
        add(YARNGAP_NE(YUV440P10), yuv, 10, 0, 1);
        add(YARNGAP_NE(YUV444P10), yuv, 10, 0, 0);
        add(YARNGAP_NE(YUV420P12), yuv, 12, 1, 1);
        add(YARNGAP_NE(YUV422P12), yuv, 12, 1, 0);
        add(YARNGAP_NE(YUV440P12), yuv, 12, 0, 1);
        add(YARNGAP_NE(YUV444P12), yuv, 12, 0, 0);
        add(YARNGAP_NE(YUV420P14), yuv, 14, 1, 1);
        add(YARNGAP_NE(YUV422P14), yuv, 14, 1, 0);
        add(YARNGAP_NE(YUV444P14), yuv, 14, 0, 0);
        add(YARNGAP_NE(YUV420P16), yuv, 16, 1, 1);
        add(YARNGAP_NE(YUV422P16), yuv, 16, 1, 0);
        add(YARNGAP_NE(YUV444P16), yuv, 16, 0, 0);
        add(AV_PIX_FMT_YUVA420P, yuv, 8, 1, 1, true);
        add(AV_PIX_FMT_YUVA422P, yuv, 8, 1, 0, true);
        add(AV_PIX_FMT_YUVA444P, yuv, 8, 0, 0, true);
        add(YARNGAP_NE(YUVA420P9), yuv, 9, 1, 1, true);
        add(YARNGAP_NE(YUVA422P9), yuv, 9, 1, 0, true);
        add(YARNGAP_NE(YUVA444P9), yuv, 9, 0, 0, true);
        add(YARNGAP_NE(YUVA420P10), yuv, 10, 1, 1, true);
        add(YARNGAP_NE(YUVA422P10), yuv, 10, 1, 0, true);
        add(YARNGAP_NE(YUVA444P10), yuv, 10, 0, 0, true);
        add(YARNGAP_NE(YUVA422P12), yuv, 12, 1, 0, true);
        add(YARNGAP_NE(YUVA444P12), yuv, 12, 0, 0, true);
        add(YARNGAP_NE(YUVA420P16), yuv, 16, 1, 1, true);
        add(YARNGAP_NE(YUVA422P16), yuv, 16, 1, 0, true);
        add(YARNGAP_NE(YUVA444P16), yuv, 16, 0, 0, true);
        add(AV_PIX_FMT_GBRP, rgb, 8, 0, 0);
        add(YARNGAP_NE(GBRP9), rgb, 9, 0, 0);
        add(YARNGAP_NE(GBRP10), rgb, 10, 0, 0);
        add(YARNGAP_NE(GBRP12), rgb, 12, 0, 0);
        add(YARNGAP_NE(GBRP14), rgb, 14, 0, 0);
        add(YARNGAP_NE(GBRP16), rgb, 16, 0, 0);
        add(AV_PIX_FMT_GBRAP, rgb, 8, 0, 0, true);
        add(YARNGAP_NE(GBRAP10), rgb, 10, 0, 0, true);
        add(YARNGAP_NE(GBRAP12), rgb, 12, 0, 0, true);
        add(YARNGAP_NE(GBRAP16), rgb, 16, 0, 0, true);
        return t;
    }();
    return table;
}

#undef YARNGAP_NE

/// The yuvj formats are the plain ones with the range in their name.
AVPixelFormat withoutRange(AVPixelFormat format) {
    switch (format) {
    case AV_PIX_FMT_YUVJ411P:
        return AV_PIX_FMT_YUV411P;
    case AV_PIX_FMT_YUVJ420P:
        return AV_PIX_FMT_YUV420P;
    case AV_PIX_FMT_YUVJ422P:
        return AV_PIX_FMT_YUV422P;
    case AV_PIX_FMT_YUVJ440P:
        return AV_PIX_FMT_YUV440P;
    case AV_PIX_FMT_YUVJ444P:
        return AV_PIX_FMT_YUV444P;
    default:
        return format;
    }
}

SwsPtr converter(int srcW, int srcH, AVPixelFormat src, int dstW, int dstH, AVPixelFormat dst, int flags) {
    SwsPtr sws(sws_getContext(srcW, srcH, src, dstW, dstH, dst, flags, nullptr, nullptr, nullptr));
    if (!sws)
        throw Error(std::string("Pictures cannot be converted from ") + av_get_pix_fmt_name(src) + " to " +
                    av_get_pix_fmt_name(dst) + ". Choose another output format.");
    return sws;
}

void copyPlanes(const AVFrame& from, Image& to) {
    for (int p = 0; p < to.planeCount(); ++p)
        for (int y = 0; y < to.plane(p).height; ++y) {
            const auto row = to.row<std::byte>(p, y);
            std::memcpy(row.data(), from.data[p] + static_cast<std::ptrdiff_t>(from.linesize[p]) * y,
                        row.size() * static_cast<std::size_t>(to.layout().bytesPerSample()));
        }
}

/// Packed RGB with whole bytes per component, such as BGRA or RGB48 in the machine's own byte order. Those
/// are taken apart and put together here: swscale sends some of them through YUV, which is not lossless.
bool isPlainPackedRgb(AVPixelFormat format) {
    const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(format);
    constexpr std::uint64_t other = AV_PIX_FMT_FLAG_PLANAR | AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM |
                                    AV_PIX_FMT_FLAG_HWACCEL | AV_PIX_FMT_FLAG_FLOAT | AV_PIX_FMT_FLAG_BAYER;
    if (!d || !(d->flags & AV_PIX_FMT_FLAG_RGB) || (d->flags & other) || d->nb_components < 3) return false;
    const bool bigEndian = (d->flags & AV_PIX_FMT_FLAG_BE) != 0;
    for (int c = 0; c < d->nb_components; ++c) {
        const AVComponentDescriptor& comp = d->comp[c];
        const bool whole =
            comp.depth == 8 || (comp.depth == 16 && bigEndian == (std::endian::native == std::endian::big));
        if (comp.shift != 0 || !whole) return false;
    }
    return true;
}

constexpr std::array<int, 4> planeOfComponent{2, 0, 1, 3}; // R G B A in planes G B R A

/// Calls `move(bytes of the packed sample, bytes of the planar one, size)` for each component of each pixel.
template <typename ImageType, typename Move>
void forPackedSamples(const AVFrame& frame, ImageType& image, Move move) {
    const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(static_cast<AVPixelFormat>(frame.format));
    const auto size = static_cast<std::size_t>(image.layout().bytesPerSample());
    for (int c = 0; c < std::min(static_cast<int>(d->nb_components), image.planeCount()); ++c) {
        auto& plane = image.plane(planeOfComponent.at(static_cast<std::size_t>(c)));
        const AVComponentDescriptor& comp = d->comp[c];
        for (int y = 0; y < image.height(); ++y) {
            std::uint8_t* packed =
                frame.data[0] + static_cast<std::ptrdiff_t>(frame.linesize[0]) * y + comp.offset;
            auto* planar = plane.bytes.data() + plane.stride * static_cast<std::size_t>(y);
            for (int x = 0; x < image.width(); ++x, packed += comp.step, planar += size)
                move(packed, planar, size);
        }
    }
}

/// True when `layout` holds the packed format sample for sample.
bool matchesPacked(AVPixelFormat format, const PixelLayout& layout) {
    return isPlainPackedRgb(format) && layout.model == ColourModel::rgb &&
           av_pix_fmt_desc_get(format)->comp[0].depth == layout.depth;
}

/// Some decoders leave noise above the significant bits' range; clamp so that arithmetic stays inside.
void clampDepth(Image& image) {
    const int depth = image.layout().depth;
    if (depth <= 8 || depth == 16) return;
    const auto limit = static_cast<std::uint16_t>(image.layout().maxValue());
    for (int p = 0; p < image.planeCount(); ++p)
        for (int y = 0; y < image.plane(p).height; ++y)
            for (std::uint16_t& v : image.row<std::uint16_t>(p, y))
                v = std::min(v, limit);
}

} // namespace

FramePtr makeFrame() {
    FramePtr frame(av_frame_alloc());
    if (!frame) throw Error("There is not enough memory for another frame. Close other programs.");
    return frame;
}

std::optional<PixelLayout> layoutOf(AVPixelFormat format) {
    format = withoutRange(format);
    for (const Known& k : known())
        if (k.format == format) return k.layout;
    const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(format);
    if (!d || (d->flags & AV_PIX_FMT_FLAG_HWACCEL)) return std::nullopt;
    std::vector<AVPixelFormat> choices;
    for (const Known& k : known())
        choices.push_back(k.format);
    choices.push_back(AV_PIX_FMT_NONE);
    int loss = 0;
    const AVPixelFormat best = avcodec_find_best_pix_fmt_of_list(
        choices.data(), format, (d->flags & AV_PIX_FMT_FLAG_ALPHA) != 0 ? 1 : 0, &loss);
    for (const Known& k : known())
        if (k.format == best) return k.layout;
    return std::nullopt;
}

AVPixelFormat formatOf(const PixelLayout& layout) {
    for (const Known& k : known())
        if (k.layout == layout) return k.format;
    throw Error("No pixel format holds " + layout.describe() + ". Choose another output format.");
}

int swsMatrix(int matrix, int height) {
    switch (matrix) {
    case AVCOL_SPC_BT709:
        return SWS_CS_ITU709;
    case AVCOL_SPC_FCC:
        return SWS_CS_FCC;
    case AVCOL_SPC_SMPTE240M:
        return SWS_CS_SMPTE240M;
    case AVCOL_SPC_BT2020_NCL:
    case AVCOL_SPC_BT2020_CL:
        return SWS_CS_BT2020;
    case AVCOL_SPC_BT470BG:
    case AVCOL_SPC_SMPTE170M:
        return SWS_CS_ITU601;
    default:
        return height >= 720 ? SWS_CS_ITU709 : SWS_CS_ITU601;
    }
}

Image toImage(const AVFrame& frame, const PixelLayout& layout, int width, int height) {
    Image image(width, height, layout);
    const AVPixelFormat wanted = formatOf(layout);
    const auto given = static_cast<AVPixelFormat>(frame.format);
    if (withoutRange(given) == wanted && frame.width == width && frame.height == height) {
        copyPlanes(frame, image);
        clampDepth(image);
        return image;
    }
    if (matchesPacked(given, layout) && frame.width == width && frame.height == height) {
        forPackedSamples(frame, image, [](const std::uint8_t* packed, std::byte* planar, std::size_t size) {
            std::memcpy(planar, packed, size);
        });
        return image;
    }
    const SwsPtr sws = converter(frame.width, frame.height, given, width, height, wanted,
                                 SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT | SWS_FULL_CHR_H_INP);
    FramePtr out = makeFrame();
    out->format = wanted;
    out->width = width;
    out->height = height;
    if (av_frame_get_buffer(out.get(), 0) < 0)
        throw Error("There is not enough memory for a frame. Close other programs.");
    sws_scale(sws.get(), frame.data, frame.linesize, 0, frame.height, out->data, out->linesize);
    copyPlanes(*out, image);
    clampDepth(image);
    return image;
}

FramePtr toFrame(const Image& image, const ColourTags& tags, AVPixelFormat format, bool outFullRange) {
    if (image.layout().isFloat())
        return toFrame(encodeLight(image, LightCurve::screen), tags, format, outFullRange);
    const AVPixelFormat own = formatOf(image.layout());
    if (format == AV_PIX_FMT_NONE) format = own;
    FramePtr out = makeFrame();
    out->format = format;
    out->width = image.width();
    out->height = image.height();
    if (av_frame_get_buffer(out.get(), 0) < 0)
        throw Error("There is not enough memory for a frame. Close other programs.");
    std::array<const std::uint8_t*, 4> data{};
    std::array<int, 4> strides{};
    for (int p = 0; p < image.planeCount(); ++p) {
        data.at(static_cast<std::size_t>(p)) =
            reinterpret_cast<const std::uint8_t*>(image.plane(p).bytes.data());
        strides.at(static_cast<std::size_t>(p)) = static_cast<int>(image.plane(p).stride);
    }
    const bool sameRange = image.layout().model != ColourModel::yuv || outFullRange == tags.fullRange;
    if (format == own && sameRange) {
        av_image_copy(out->data, out->linesize, data.data(), strides.data(), format, image.width(),
                      image.height());
        return out;
    }
    if (matchesPacked(format, image.layout())) {
        if (!image.layout().alpha) // a filler byte, where there is one, is opaque
            std::memset(out->data[0], 0xFF,
                        static_cast<std::size_t>(out->linesize[0]) * static_cast<std::size_t>(out->height));
        forPackedSamples(*out, image, [](std::uint8_t* packed, const std::byte* planar, std::size_t size) {
            std::memcpy(packed, planar, size);
        });
        return out;
    }
    const SwsPtr sws = converter(image.width(), image.height(), own, image.width(), image.height(), format,
                                 SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT | SWS_FULL_CHR_H_INP);
    const int* matrix = sws_getCoefficients(swsMatrix(tags.matrix, image.height()));
    sws_setColorspaceDetails(sws.get(), matrix, tags.fullRange ? 1 : 0, matrix, outFullRange ? 1 : 0, 0,
                             1 << 16, 1 << 16);
    sws_scale(sws.get(), data.data(), strides.data(), 0, image.height(), out->data, out->linesize);
    return out;
}

} // namespace yarngap
