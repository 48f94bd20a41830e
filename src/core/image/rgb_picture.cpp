#include "core/image/rgb_picture.h"

#include "core/error.h"
#include "core/image/colour_codes.h"
#include "core/image/ffmpeg_image.h"
#include "core/image/scene_light.h"
#include "core/image/screen_colour.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <span>
#include <vector>

namespace yarngap {

namespace {

/// Encoded RGB of the shot in `format`, at this size, into rows `stride` bytes apart.
void scaleTo(const Image& image, const ColourTags& tags, Size size, AVPixelFormat format, std::uint8_t* to,
             std::size_t stride) {
    const bool smaller = size.width < image.width();
    PixelLayout opaque = image.layout();
    opaque.alpha = false; // the screen shows colour; alpha is carried, not shown
    const SwsPtr sws(
        sws_getContext(image.width(), image.height(), formatOf(opaque), size.width, size.height, format,
                       (smaller ? SWS_AREA : SWS_BICUBIC) | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT, nullptr,
                       nullptr, nullptr));
    if (!sws) throw Error("A frame cannot be converted for the screen: " + image.layout().describe() + ".");
    const int* matrix = sws_getCoefficients(swsMatrix(tags.matrix, image.height()));
    const bool full = tags.fullRange || image.layout().model != ColourModel::yuv;
    sws_setColorspaceDetails(sws.get(), matrix, full ? 1 : 0, sws_getCoefficients(SWS_CS_DEFAULT), 1, 0,
                             1 << 16, 1 << 16);
    std::array<const std::uint8_t*, 4> data{};
    std::array<int, 4> strides{};
    for (int p = 0; p < opaque.planeCount(); ++p) {
        data.at(static_cast<std::size_t>(p)) =
            reinterpret_cast<const std::uint8_t*>(image.plane(p).bytes.data());
        strides.at(static_cast<std::size_t>(p)) = static_cast<int>(image.plane(p).stride);
    }
    const std::array<std::uint8_t*, 4> dst{to, nullptr, nullptr, nullptr};
    const std::array<int, 4> dstStride{static_cast<int>(stride), 0, 0, 0};
    sws_scale(sws.get(), data.data(), strides.data(), 0, image.height(), dst.data(), dstStride.data());
}

/// The same through the light of the shot, as the screen would show it.
void convertThroughLight(const Image& image, const ColourTags& tags, RgbPicture& out) {
    const auto values = static_cast<std::size_t>(out.width) * 4;
    const std::size_t stride = out.stride * 2;
    std::vector<std::uint16_t> deep(stride / 2 * static_cast<std::size_t>(out.height) + 64);
    scaleTo(image, tags, {out.width, out.height}, AV_PIX_FMT_RGBA64,
            reinterpret_cast<std::uint8_t*>(deep.data()), stride);
    constexpr int whiteOfVideo = 255 << 8; // as the library counts when it makes 16 bits of luma
    const ScreenColour colour(tags, image.layout().model == ColourModel::rgb ? 65535 : whiteOfVideo);
    tbb::parallel_for(0, out.height, [&](int y) {
        const auto row = static_cast<std::size_t>(y);
        colour.convert(std::span(deep).subspan(row * stride / 2, values),
                       std::span(out.bgra).subspan(row * out.stride, values));
    });
}

} // namespace

RgbPicture toScreenRgb(const Image& image, const ColourTags& tags, int width, int height) {
    if (image.layout().isFloat()) {
        ColourTags encoded = tags;
        encoded.transfer = h273::sRgb;
        return toScreenRgb(encodeLight(image, LightCurve::screen), encoded, width, height);
    }
    RgbPicture out{width, height, (static_cast<std::size_t>(width) * 4 + 63) / 64 * 64, {}};
    out.bgra.resize(out.stride * static_cast<std::size_t>(height) + 64); // spare bytes: see Image
    if (ScreenColour::isNeeded(tags))
        convertThroughLight(image, tags, out);
    else
        scaleTo(image, tags, {width, height}, AV_PIX_FMT_BGRA, out.bgra.data(), out.stride);
    return out;
}

Size fitted(int width, int height, double sar, Size box) {
    const double w = width * (sar > 0 ? sar : 1.0);
    const double h = height;
    const double scale = std::min(box.width / w, box.height / h);
    return {std::max(1, static_cast<int>(std::lround(w * scale))),
            std::max(1, static_cast<int>(std::lround(h * scale)))};
}

} // namespace yarngap
