#include "core/media/output_format.h"

#include "core/choice_names.h"
#include "core/error.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

namespace yarngap {

namespace {

using namespace std::string_view_literals;

constexpr std::array all{OutputFormat::ffv1Mkv,     OutputFormat::h264Mp4,      OutputFormat::h265Mp4,
                         OutputFormat::av1Mp4,      OutputFormat::proresMov,    OutputFormat::dnxhrMov,
                         OutputFormat::webm,        OutputFormat::pngSequence,  OutputFormat::tiffSequence,
                         OutputFormat::dpxSequence, OutputFormat::jpegSequence, OutputFormat::exrSequence};

constexpr std::array mkv{".mkv"sv};
constexpr std::array mp4{".mp4"sv, ".mov"sv, ".mkv"sv};
constexpr std::array mp4OrMkv{".mp4"sv, ".mkv"sv};
constexpr std::array mov{".mov"sv};
constexpr std::array movOrMxf{".mov"sv, ".mxf"sv};
constexpr std::array webmOnly{".webm"sv};
constexpr std::array png{".png"sv};
constexpr std::array tiff{".tif"sv, ".tiff"sv};
constexpr std::array dpx{".dpx"sv};
constexpr std::array jpeg{".jpg"sv, ".jpeg"sv};
constexpr std::array exr{".exr"sv};

constexpr std::array proresGrades{"Proxy"sv, "LT"sv, "422"sv, "422 HQ"sv, "4444"sv, "4444 XQ"sv};
constexpr std::array dnxhrGrades{"LB"sv, "SQ"sv, "HQ"sv, "HQX"sv, "444"sv};

struct Description {
    std::string_view name, shortName;
    std::span<const std::string_view> endings;
    bool isSequence = false, isIntra = false, canInterlace = false;
    std::optional<QualityScale> quality = std::nullopt;
};

const Description& describe(OutputFormat format) {
    constexpr int mostCrf = 40;
    constexpr int mostCrf63 = 55;
    static const std::array<Description, all.size()> descriptions{{
        {"FFV1 / MKV", "ffv1", mkv, false, true, true},
        {"H.264 / MP4", "h264", mp4, false, false, true, QualityScale{"CRF", mostCrf, 0, 12}},
        {"H.265 / MP4", "h265", mp4, false, false, false, QualityScale{"CRF", mostCrf, 0, 14}},
        {"AV1 / MP4", "av1", mp4OrMkv, false, false, false, QualityScale{"CRF", mostCrf63, 1, 20}},
        {"ProRes / MOV", "prores", mov, false, true, true, QualityScale{"", 0, 5, 3, proresGrades}},
        {"DNxHR / MOV", "dnxhr", movOrMxf, false, true, false, QualityScale{"", 0, 4, 2, dnxhrGrades}},
        {"VP9 / WebM", "webm", webmOnly, false, false, false, QualityScale{"CRF", mostCrf63, 0, 18}},
        {"PNG sequence", "png", png, true, true, false},
        {"TIFF sequence", "tiff", tiff, true, true, false},
        {"DPX sequence", "dpx", dpx, true, true, false},
        {"JPEG sequence", "jpeg", jpeg, true, true, false, QualityScale{"quality", 50, 100, 95}},
        {"EXR sequence", "exr", exr, true, true, false},
    }};
    return descriptions.at(static_cast<std::size_t>(format));
}

constexpr ChoiceNames<Chroma, 3> chromas{
    "chroma subsampling", {{{Chroma::c420, "4:2:0"}, {Chroma::c422, "4:2:2"}, {Chroma::c444, "4:4:4"}}}};
constexpr ChoiceNames<ExrCompression, 8> compressions{"compression",
                                                      {{{ExrCompression::none, "none"},
                                                        {ExrCompression::rle, "rle"},
                                                        {ExrCompression::zips, "zips"},
                                                        {ExrCompression::zip, "zip"},
                                                        {ExrCompression::piz, "piz"},
                                                        {ExrCompression::pxr24, "pxr24"},
                                                        {ExrCompression::b44, "b44"},
                                                        {ExrCompression::dwaa, "dwaa"}}}};
constexpr ChoiceNames<SoundCodec, 5> codecs{"sound format",
                                            {{{SoundCodec::usual, "usual"},
                                              {SoundCodec::pcm, "pcm"},
                                              {SoundCodec::flac, "flac"},
                                              {SoundCodec::aac, "aac"},
                                              {SoundCodec::opus, "opus"}}}};

std::string lowered(const std::filesystem::path& target) {
    std::string ending = target.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return ending;
}

/// "a, b or c".
template <typename List, typename Text>
std::string listed(const List& list, Text text) {
    std::string told;
    std::size_t i = 0;
    for (const auto& entry : list) {
        if (i > 0) told += i + 1 == list.size() ? " or " : ", ";
        told += text(entry);
        ++i;
    }
    return told;
}

std::string depthWords(int depth) {
    return depth == FormatChoice::half   ? "16 (half)"
           : depth == FormatChoice::real ? "32 (float)"
                                         : std::to_string(depth);
}

} // namespace

std::span<const OutputFormat> outputFormats() {
    return all;
}

std::string_view name(OutputFormat format) {
    return describe(format).name;
}

std::string_view shortName(OutputFormat format) {
    return describe(format).shortName;
}

std::string_view extension(OutputFormat format) {
    return describe(format).endings.front();
}

std::span<const std::string_view> extensions(OutputFormat format) {
    return describe(format).endings;
}

OutputFormat parseOutputFormat(std::string_view text) {
    for (const OutputFormat format : all)
        if (text == shortName(format)) return format;
    throw Error("\"" + std::string(text) + "\" is no format. Use " +
                listed(all, [](OutputFormat f) { return std::string(shortName(f)); }) + '.');
}

OutputFormat formatForTarget(const std::filesystem::path& target) {
    const std::string ending = lowered(target);
    if (ending == ".mxf") return OutputFormat::dnxhrMov;
    if (ending == ".mov") return OutputFormat::proresMov;
    for (const OutputFormat format : all)
        if (std::ranges::count(extensions(format), ending) > 0) return format;
    throw Error(
        "The name " + target.string() +
        " does not tell the format. End it in .mkv (FFV1), .mp4 (H.264), .mov (ProRes), .mxf (DNxHR), "
        ".webm (VP9), or .png, .tif, .dpx, .jpg or .exr (sequences).");
}

void refuseEnding(const std::filesystem::path& target, OutputFormat format) {
    const auto endings = extensions(format);
    if (std::ranges::count(endings, lowered(target)) > 0) return;
    throw Error(std::string(name(format)) + " does not go into " + target.filename().string() +
                ". End the name in " + listed(endings, [](std::string_view e) { return std::string(e); }) +
                '.');
}

bool isSequence(OutputFormat format) {
    return describe(format).isSequence;
}

bool isIntra(OutputFormat format) {
    return describe(format).isIntra;
}

bool canInterlace(OutputFormat format) {
    return describe(format).canInterlace;
}

std::optional<QualityScale> qualityScale(OutputFormat format) {
    return describe(format).quality;
}

std::string qualityWords(OutputFormat format, int quality) {
    const auto scale = qualityScale(format);
    if (!scale) return "lossless";
    if (!scale->steps.empty())
        return std::string(
            scale->steps[static_cast<std::size_t>(std::clamp(quality, scale->smallest, scale->best))]);
    const std::string number = std::string(scale->called) + ' ' + std::to_string(quality);
    const double share = static_cast<double>(quality - scale->smallest) / (scale->best - scale->smallest);
    const bool lossless = format != OutputFormat::jpegSequence && quality == 0;
    struct Word {
        double from;
        const char* text;
    };
    constexpr std::array<Word, 4> words{
        {{0.9, "best"}, {0.62, "near-transparent"}, {0.42, "good"}, {0.2, "small"}}};
    for (const Word& word : words)
        if (lossless || share >= word.from) return number + ", " + (lossless ? "lossless" : word.text);
    return number + ", for a quick look";
}

std::string_view name(Chroma chroma) {
    return chromas.nameOf(chroma);
}
Chroma parseChroma(std::string_view text) {
    return chromas.parse(text);
}
std::string_view name(ExrCompression compression) {
    return compressions.nameOf(compression);
}
ExrCompression parseExrCompression(std::string_view text) {
    return compressions.parse(text);
}
std::string_view name(SoundCodec codec) {
    return codecs.nameOf(codec);
}
SoundCodec parseSoundCodec(std::string_view text) {
    return codecs.parse(text);
}

std::vector<int> depthsOf(OutputFormat format) {
    switch (format) {
    case OutputFormat::ffv1Mkv:
        return {8, 10, 12, 16};
    case OutputFormat::h264Mp4:
    case OutputFormat::av1Mp4:
        return {8, 10};
    case OutputFormat::h265Mp4:
    case OutputFormat::webm:
        return {8, 10, 12};
    case OutputFormat::pngSequence:
        return {8, 16};
    case OutputFormat::tiffSequence:
        return {8, 16, FormatChoice::real};
    case OutputFormat::dpxSequence:
        return {10, 16};
    case OutputFormat::exrSequence:
        return {FormatChoice::half, FormatChoice::real};
    case OutputFormat::proresMov:
    case OutputFormat::dnxhrMov:
    case OutputFormat::jpegSequence:
        break;
    }
    return {};
}

std::vector<Chroma> chromasOf(OutputFormat format) {
    switch (format) {
    case OutputFormat::ffv1Mkv:
    case OutputFormat::h264Mp4:
    case OutputFormat::h265Mp4:
    case OutputFormat::webm:
    case OutputFormat::jpegSequence:
        return {Chroma::c420, Chroma::c422, Chroma::c444};
    default:
        return {};
    }
}

void validate(const FormatChoice& choice) {
    const std::string called(name(choice.format));
    if (choice.quality) {
        const auto scale = qualityScale(choice.format);
        if (!scale) throw Error(called + " is lossless; there is no quality to choose.");
        const auto [least, most] = std::minmax(scale->smallest, scale->best);
        if (*choice.quality < least || *choice.quality > most)
            throw Error("The quality of " + called + " goes from " + std::to_string(scale->smallest) +
                        " to " + std::to_string(scale->best) + ".");
    }
    const auto depths = depthsOf(choice.format);
    if (choice.depth && std::ranges::count(depths, *choice.depth) == 0)
        throw Error(called + (depths.empty() ? " offers no choice of depth."
                                             : " has samples of " + listed(depths, depthWords) + " bit."));
    const auto subsamplings = chromasOf(choice.format);
    if (choice.chroma && std::ranges::count(subsamplings, *choice.chroma) == 0)
        throw Error(called + (subsamplings.empty() ? " offers no choice of chroma subsampling."
                                                   : " has chroma of " + listed(subsamplings, [](Chroma c) {
                                                         return std::string(name(c));
                                                     }) + "."));
}

double bytesPerFrame(const FormatChoice& choice, int width, int height, const PixelLayout& layout) {
    const double pixels = static_cast<double>(width) * height;
    const int depth = std::abs(choice.depth.value_or(layout.isFloat() ? FormatChoice::real : layout.depth));
    const int shift = layout.model == ColourModel::yuv ? layout.chromaShiftX + layout.chromaShiftY : 0;
    const double planes = layout.model == ColourModel::grey ? 1 : 1 + 2 * std::pow(0.5, shift);
    const double raw = pixels * planes * depth / 8;
    const auto scale = qualityScale(choice.format);
    const int quality = choice.quality.value_or(scale ? scale->usual : 0);
    // Of CRF, six more halve the bits; measured on the demo shots and the clips for measuring.
    const auto crf = [&](double bitsAtUsual) {
        const double halvings = (quality - scale->usual) / 6.0;
        return pixels * bitsAtUsual / 8 * std::pow(0.5, halvings);
    };
    constexpr double pixelsOfHd = 1920.0 * 1080;
    switch (choice.format) {
    case OutputFormat::h264Mp4:
        return crf(1.1);
    case OutputFormat::h265Mp4:
        return crf(0.8);
    case OutputFormat::av1Mp4:
        return crf(0.45);
    case OutputFormat::webm:
        return crf(0.6);
    case OutputFormat::proresMov: { // Mbit/s of 1920 x 1080 at 29.97, as the grades are defined
        constexpr std::array<double, 6> rates{45, 102, 147, 220, 330, 500};
        return rates.at(static_cast<std::size_t>(quality)) * 1e6 / 8 / 29.97 * pixels / pixelsOfHd;
    }
    case OutputFormat::dnxhrMov: { // likewise, VC-3
        constexpr std::array<double, 5> rates{45, 145, 220, 220, 440};
        return rates.at(static_cast<std::size_t>(quality)) * 1e6 / 8 / 29.97 * pixels / pixelsOfHd;
    }
    case OutputFormat::dpxSequence:
        return pixels * (depth > 10 ? 6 : 4);
    case OutputFormat::jpegSequence:
        return pixels * (quality >= 95 ? 0.5 : 0.25);
    case OutputFormat::pngSequence:
    case OutputFormat::tiffSequence:
        return pixels * 3 * std::max(8, depth > 8 && depth < 16 ? 16 : depth) / 8 * 0.6;
    case OutputFormat::exrSequence:
        return pixels * 3 * (choice.depth == FormatChoice::half ? 2 : 4) * 0.6;
    case OutputFormat::ffv1Mkv:
        break;
    }
    return raw * 0.5;
}

} // namespace yarngap
