#include "core/media/picture_encoder.h"

#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/image/scene_light.h"
#include "core/media/encoder_settings.h"

extern "C" {
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
}

#include <algorithm>
#include <cmath>
#include <limits>
#include <thread>

namespace yarngap {

namespace {

/// Encoders and containers count in 32 bit. The simplest fraction within 10^-10 of the rate: over a day at 60
/// fps that is a thousandth of a frame.
AVRational rateFor32Bit(const Rate& rate) {
    constexpr double enough = 1e-10;
    AVRational simple{0, 1};
    for (std::int64_t largest = 1000; largest <= std::numeric_limits<int>::max(); largest *= 10) {
        av_reduce(&simple.num, &simple.den, rate.num(), rate.den(), largest);
        if (simple.num > 0 && std::abs(av_q2d(simple) / rate.toDouble() - 1) < enough) return simple;
    }
    av_reduce(&simple.num, &simple.den, rate.num(), rate.den(), std::numeric_limits<int>::max());
    return simple;
}

/// What the frames would be with the depth and the subsampling that are chosen.
PixelLayout wantedLayout(PixelLayout layout, const FormatChoice& choice) {
    if (choice.depth && *choice.depth > 0) layout.depth = *choice.depth;
    if (!choice.chroma || layout.model == ColourModel::grey) return layout;
    layout.model = ColourModel::yuv;
    layout.chromaShiftX = *choice.chroma == Chroma::c444 ? 0 : 1;
    layout.chromaShiftY = *choice.chroma == Chroma::c420 ? 1 : 0;
    return layout;
}

std::string sizeOf(const WriterOptions& options) {
    return std::to_string(options.width) + " x " + std::to_string(options.height) + " pixels at " +
           options.rate.display() + " fps";
}

} // namespace

PictureEncoder::PictureEncoder(const WriterOptions& options, bool globalHeader)
    : options_(options)
    , packet_(makePacket()) {
    const OutputFormat format = options_.format.format;
    if (options_.layout.isFloat()) {
        options_.layout = encodedLayout(options_.layout);
        options_.colour.transfer = AVCOL_TRC_IEC61966_2_1;
        notes_.emplace_back("Light of the scene is encoded as sRGB and cut off at white: " +
                            std::string(name(format)) + " holds no floats. An EXR sequence does.");
    }
    const AVCodec* codec = avcodec_find_encoder_by_name(encoderFor(format));
    if (!codec)
        throw Error(std::string("FFmpeg has no encoder ") + encoderFor(format) +
                    " on this machine. Install Debian's package libavcodec59, or choose another format.");
    choosePixelFormat(*codec);
    noteLosses();
    context_.reset(avcodec_alloc_context3(codec));
    if (globalHeader) context_->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    describePictures();
    describeColour();
    open(*codec);
}

PictureEncoder::~PictureEncoder() = default;

void PictureEncoder::encode(const Image& image, const Take& take) {
    const FramePtr frame = toFrame(image, inTags_, pixelFormat_, fullRange_);
    frame->pts = next_++;
    frame->color_range = context_->color_range;
    frame->colorspace = context_->colorspace;
    frame->color_primaries = context_->color_primaries; // ProRes writes those of the frame
    frame->color_trc = context_->color_trc;
    frame->interlaced_frame = context_->field_order == AV_FIELD_PROGRESSIVE ? 0 : 1;
    frame->top_field_first = options_.scan == Scan::topFieldFirst ? 1 : 0;
    send(frame.get(), take);
}

void PictureEncoder::finish(const Take& take) {
    send(nullptr, take);
}

void PictureEncoder::choosePixelFormat(const AVCodec& codec) {
    const PixelLayout& in = options_.layout;
    std::vector<AVPixelFormat> offered =
        formatsOfGrade(options_.format.format, qualityFor(options_.format, in).value_or(0));
    if (offered.empty())
        for (const auto* format = codec.pix_fmts; *format != AV_PIX_FMT_NONE; ++format)
            offered.push_back(*format);
    const AVPixelFormat wanted = formatOf(wantedLayout(in, options_.format));
    if (std::ranges::count(offered, wanted) > 0) {
        pixelFormat_ = wanted;
    } else {
        offered.push_back(AV_PIX_FMT_NONE);
        int loss = 0;
        pixelFormat_ = avcodec_find_best_pix_fmt_of_list(offered.data(), wanted, in.alpha ? 1 : 0, &loss);
    }
    avoidOddChroma();
    outIsRgb_ = (av_pix_fmt_desc_get(pixelFormat_)->flags & AV_PIX_FMT_FLAG_RGB) != 0;
}

void PictureEncoder::avoidOddChroma() {
    const OutputFormat format = options_.format.format;
    if (format != OutputFormat::h264Mp4 && format != OutputFormat::h265Mp4) return;
    const PixelLayout chosen = *layoutOf(pixelFormat_);
    const bool odd = (options_.width % 2 != 0 && chosen.chromaShiftX > 0) ||
                     (options_.height % 2 != 0 && chosen.chromaShiftY > 0);
    if (!odd) return;
    pixelFormat_ = chosen.depth > 8 ? AV_PIX_FMT_YUV444P10 : AV_PIX_FMT_YUV444P;
    notes_.emplace_back("The picture has an odd size, so its chroma is written as 4:4:4, which some players "
                        "cannot show.");
}

void PictureEncoder::noteLosses() {
    const PixelLayout& in = options_.layout;
    const std::string format(name(options_.format.format));
    const AVPixFmtDescriptor* out = av_pix_fmt_desc_get(pixelFormat_);
    if (in.alpha && (out->flags & AV_PIX_FMT_FLAG_ALPHA) == 0)
        notes_.emplace_back("Alpha is left out: " + format + " has none.");
    const int depth = out->comp[0].depth;
    if (depth < in.depth && options_.format.depth != depth)
        notes_.emplace_back("Samples are rounded from " + std::to_string(in.depth) + " to " +
                            std::to_string(depth) + " bit, which is what " + format + " holds.");
    if (options_.format.depth && *options_.format.depth > 0 && depth != *options_.format.depth)
        notes_.emplace_back(format + " cannot hold such frames with " +
                            std::to_string(*options_.format.depth) + " bit; they have " +
                            std::to_string(depth) + " bit.");
}

void PictureEncoder::describePictures() {
    AVCodecContext& c = *context_;
    c.width = options_.width;
    c.height = options_.height;
    c.pix_fmt = pixelFormat_;
    c.framerate = rateFor32Bit(options_.rate);
    c.time_base = av_inv_q(c.framerate);
    c.sample_aspect_ratio = {static_cast<int>(options_.pixelAspect.num()),
                             static_cast<int>(options_.pixelAspect.den())};
    c.field_order = options_.scan == Scan::topFieldFirst      ? AV_FIELD_TT
                    : options_.scan == Scan::bottomFieldFirst ? AV_FIELD_BB
                                                              : AV_FIELD_PROGRESSIVE;
    if (c.field_order != AV_FIELD_PROGRESSIVE)
        c.flags |= AV_CODEC_FLAG_INTERLACED_DCT | AV_CODEC_FLAG_INTERLACED_ME;
    c.thread_count = static_cast<int>(std::clamp(std::thread::hardware_concurrency(), 1U, 16U));
}

void PictureEncoder::describeColour() {
    AVCodecContext& c = *context_;
    inTags_ = options_.colour;
    ColourTags out = options_.colour;
    if (options_.layout.model == ColourModel::rgb && !outIsRgb_) {
        // RGB becomes YUV: state the matrix that is used instead of the identity.
        constexpr int highDefinition = 720;
        out.matrix = options_.height >= highDefinition ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M;
        inTags_.matrix = out.matrix;
        out.fullRange = false;
    }
    // ProRes and DNxHR have no place for the range and are read as limited everywhere.
    const OutputFormat format = options_.format.format;
    if (format == OutputFormat::proresMov || format == OutputFormat::dnxhrMov) out.fullRange = false;
    fullRange_ = out.fullRange;
    c.color_range = outIsRgb_ || fullRange_ ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
    c.color_primaries = static_cast<AVColorPrimaries>(out.primaries);
    c.color_trc = static_cast<AVColorTransferCharacteristic>(out.transfer);
    c.colorspace = outIsRgb_ ? AVCOL_SPC_RGB : static_cast<AVColorSpace>(out.matrix);
    c.chroma_sample_location = static_cast<AVChromaLocation>(out.chromaSite);
}

void PictureEncoder::open(const AVCodec& codec) {
    AVCodecContext& c = *context_;
    if (options_.format.format == OutputFormat::ffv1Mkv) {
        c.level = 3;
        c.gop_size = 1;
    }
    AVDictionary* settings = nullptr;
    for (const auto& [name, value] : encoderSettings(options_.format, options_.layout, options_.scan))
        av_dict_set(&settings, name.c_str(), value.c_str(), 0);
    const int opened = avcodec_open2(&c, &codec, &settings);
    av_dict_free(&settings);
    const std::string format(name(options_.format.format));
    if (opened == AVERROR(ENOMEM)) throw Error(outOfMemory);
    if (opened == AVERROR_EXTERNAL) // the encoder's own library, which does not tell why
        throw Error("The encoder of " + format + " cannot be started for pictures of " + sizeOf(options_) +
                    ". Close other programs if memory is short, or choose another format.");
    if (opened < 0)
        throw Error(format + " cannot hold pictures of " + sizeOf(options_) + ". Choose another format.");
}

void PictureEncoder::send(const AVFrame* frame, const Take& take) {
    const auto check = [this](int result) {
        if (result < 0) throw Error(writeFailure(options_.target, AVUNERROR(result)));
    };
    check(avcodec_send_frame(context_.get(), frame));
    while (true) {
        const int result = avcodec_receive_packet(context_.get(), packet_.get());
        if (result == AVERROR(EAGAIN) || result == AVERROR_EOF) return;
        check(result);
        if (packet_->duration == 0) packet_->duration = 1;
        take(*packet_);
    }
}

} // namespace yarngap
