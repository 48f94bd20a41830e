#include "core/media/encoder_settings.h"

#include "core/media/encoders_there.h"

extern "C" {
#include <libavcodec/avcodec.h>
}

#include <array>

namespace yarngap {

const char* encoderFor(OutputFormat format) {
    switch (format) {
    case OutputFormat::h264Mp4:
        return "libx264";
    case OutputFormat::h265Mp4:
        return "libx265";
    case OutputFormat::av1Mp4:
        return "libsvtav1";
    case OutputFormat::webm:
        return "libvpx-vp9";
    case OutputFormat::proresMov:
        return "prores_ks";
    case OutputFormat::dnxhrMov:
        return "dnxhd";
    default:
        return "ffv1";
    }
}

bool isEncoderThere(OutputFormat format) {
    return isSequence(format) || avcodec_find_encoder_by_name(encoderFor(format)) != nullptr;
}

std::optional<int> qualityFor(const FormatChoice& choice, const PixelLayout& layout) {
    const auto scale = qualityScale(choice.format);
    if (!scale) return std::nullopt;
    if (choice.quality) return choice.quality;
    const bool rich = layout.model == ColourModel::rgb || layout.alpha ||
                      (layout.model == ColourModel::yuv && layout.chromaShiftX == 0);
    if (choice.format == OutputFormat::proresMov) return rich ? 4 : 3;
    if (choice.format == OutputFormat::dnxhrMov) return rich ? 4 : layout.depth > 8 ? 3 : 2;
    return scale->usual;
}

std::vector<AVPixelFormat> formatsOfGrade(OutputFormat format, int grade) {
    if (format == OutputFormat::proresMov) {
        constexpr int first4444 = 4;
        if (grade < first4444) return {AV_PIX_FMT_YUV422P10};
        return {AV_PIX_FMT_YUV444P10, AV_PIX_FMT_YUVA444P10};
    }
    if (format == OutputFormat::dnxhrMov) {
        if (grade < 3) return {AV_PIX_FMT_YUV422P};
        if (grade == 3) return {AV_PIX_FMT_YUV422P10};
        return {AV_PIX_FMT_YUV444P10, AV_PIX_FMT_GBRP10};
    }
    return {};
}

std::vector<std::pair<std::string, std::string>> encoderSettings(const FormatChoice& choice,
                                                                 const PixelLayout& layout, Scan scan) {
    const int quality = qualityFor(choice, layout).value_or(0);
    const std::string number = std::to_string(quality);
    switch (choice.format) {
    case OutputFormat::h264Mp4: // with 20 frames held back, a third of the default
        return {{quality == 0 ? "qp" : "crf", number},
                {"preset", "medium"},
                {"rc-lookahead", "20"},
                {"x264-params", scan == Scan::bottomFieldFirst ? "bff=1" : ""}};
    case OutputFormat::h265Mp4:
        return {{"crf", number},
                {"preset", "medium"},
                {"x265-params",
                 std::string("log-level=none:rc-lookahead=15") + (quality == 0 ? ":lossless=1" : "")}};
    case OutputFormat::av1Mp4:
        return {{"crf", number}, {"preset", "8"}};
    case OutputFormat::webm:
        return {{quality == 0 ? "lossless" : "crf", quality == 0 ? "1" : number},
                {"deadline", "good"},
                {"cpu-used", "3"},
                {"row-mt", "1"},
                {"lag-in-frames", "12"}};
    case OutputFormat::proresMov: {
        constexpr std::array<const char*, 6> profiles{"proxy", "lt", "standard", "hq", "4444", "4444xq"};
        return {{"profile", profiles.at(static_cast<std::size_t>(quality))}};
    }
    case OutputFormat::dnxhrMov: {
        constexpr std::array<const char*, 5> profiles{"dnxhr_lb", "dnxhr_sq", "dnxhr_hq", "dnxhr_hqx",
                                                      "dnxhr_444"};
        return {{"profile", profiles.at(static_cast<std::size_t>(quality))}};
    }
    default:
        return {{"slicecrc", "1"}};
    }
}

} // namespace yarngap
