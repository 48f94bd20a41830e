#include "core/media/picture_form.h"

#include "core/error.h"
#include "core/image/ffmpeg_image.h"
#include "core/media/picture_file.h"

#include <array>
#include <cmath>

namespace yarngap {

namespace {

/// Interleaved RGB or RGBA, as the picture library takes it.
struct Interleaved {
    PictureSample kind = PictureSample::byte;
    const std::uint8_t* samples = nullptr;
    std::size_t rowBytes = 0;
    FramePtr frame = nullptr;       ///< owner of integers
    std::vector<float> floats = {}; ///< owner of floats
};

bool keepsAlpha(OutputFormat format) {
    return format != OutputFormat::jpegSequence && format != OutputFormat::dpxSequence;
}

/// Bits of the samples that are written; below 0 for floats.
int depthOf(const WriterOptions& options) {
    const PixelLayout& layout = options.layout;
    if (options.format.depth) return *options.format.depth;
    constexpr int byte = 8;
    constexpr int film = 10;
    constexpr int word = 16;
    switch (options.format.format) {
    case OutputFormat::exrSequence:
        return layout.samples == SampleKind::half ? FormatChoice::half : FormatChoice::real;
    case OutputFormat::tiffSequence:
        return layout.isFloat() ? FormatChoice::real : layout.depth > byte ? word : byte;
    case OutputFormat::dpxSequence:
        return layout.depth > film || layout.isFloat() ? word : film;
    case OutputFormat::jpegSequence:
        return byte;
    default:
        return layout.depth > byte || layout.isFloat() ? word : byte;
    }
}

Interleaved integers(const Image& image, const WriterOptions& options, bool wide, bool alpha) {
    const AVPixelFormat format =
        wide ? (alpha ? AV_PIX_FMT_RGBA64 : AV_PIX_FMT_RGB48) : (alpha ? AV_PIX_FMT_RGBA : AV_PIX_FMT_RGB24);
    Interleaved rgb{wide ? PictureSample::word : PictureSample::byte};
    rgb.frame = toFrame(image, options.colour, format, true);
    rgb.samples = rgb.frame->data[0];
    rgb.rowBytes = static_cast<std::size_t>(rgb.frame->linesize[0]);
    return rgb;
}

/// Floats as they are; integers as 0 to 1.
Interleaved floats(const Image& image, const WriterOptions& options, std::size_t channels) {
    const auto width = static_cast<std::size_t>(image.width());
    Interleaved rgb{PictureSample::real};
    rgb.floats.resize(channels * width * static_cast<std::size_t>(image.height()));
    const auto rowOf = [&](int y) {
        return rgb.floats.data() + static_cast<std::size_t>(y) * width * channels;
    };
    if (image.layout().isFloat()) {
        constexpr std::array<int, 4> planeOf{2, 0, 1, 3}; // R G B A in planes G B R A
        for (std::size_t c = 0; c < channels; ++c) {
            const int p = image.layout().model != ColourModel::grey ? planeOf.at(c)
                          : c == 3                                  ? image.planeCount() - 1
                                                                    : 0;
            for (int y = 0; y < image.height(); ++y) {
                const auto row = image.row<float>(p, y);
                float* to = rowOf(y) + c;
                for (std::size_t x = 0; x < width; ++x)
                    to[x * channels] = row[x];
            }
        }
    } else {
        constexpr float white = 65535.0F;
        const Interleaved whole = integers(image, options, true, channels == 4);
        for (int y = 0; y < image.height(); ++y) {
            const auto* row = reinterpret_cast<const std::uint16_t*>(
                whole.samples + whole.rowBytes * static_cast<std::size_t>(y));
            float* to = rowOf(y);
            for (std::size_t i = 0; i < width * channels; ++i)
                to[i] = static_cast<float>(row[i]) / white;
        }
    }
    rgb.samples = reinterpret_cast<const std::uint8_t*>(rgb.floats.data());
    rgb.rowBytes = width * channels * sizeof(float);
    return rgb;
}

void describe(std::map<std::string, PictureValue>& values, const WriterOptions& options, int depth,
              const std::string& timecode) {
    values["PixelAspectRatio"] = static_cast<float>(options.pixelAspect.toDouble());
    values["DateTime"] = ""; // else that of now, and what is rendered again would be another file
    switch (options.format.format) {
    case OutputFormat::pngSequence:
        values["png:compressionLevel"] = 4;
        values["oiio:UnassociatedAlpha"] = 1;
        break;
    case OutputFormat::tiffSequence:
        values["compression"] = "zip";
        values["oiio:UnassociatedAlpha"] = 1;
        break;
    case OutputFormat::dpxSequence:
        values["oiio:BitsPerSample"] = depth;
        values["dpx:FrameRate"] = static_cast<float>(options.rate.toDouble());
        if (!timecode.empty()) values["dpx:TimeCode"] = timecode;
        if (!options.reel.empty()) values["dpx:InputDevice"] = options.reel;
        break;
    case OutputFormat::jpegSequence: {
        values["Compression"] = "jpeg:" + std::to_string(options.format.quality.value_or(95));
        values["jpeg:subsampling"] = std::string(name(options.format.chroma.value_or(Chroma::c444)));
        break;
    }
    default:
        values["compression"] = std::string(name(options.format.compression));
        if (!options.reel.empty()) values["reelName"] = options.reel;
        break;
    }
}

/// EXR holds timecode as packed decimals (SMPTE ST 12-1): hours to frames from the highest byte down, bit 6
/// of the frames for drop-frame.
void describeTimecode(std::map<std::string, PictureValue>& values, const std::string& timecode) {
    constexpr std::size_t length = 11; // hh:mm:ss:ff
    if (timecode.size() < length) return;
    const auto pair = [&](std::size_t at) {
        return static_cast<unsigned>(timecode[at] - '0') << 4U |
               static_cast<unsigned>(timecode[at + 1] - '0');
    };
    constexpr unsigned dropFrame = 1U << 6U;
    const unsigned frames = pair(9) | (timecode[8] == ';' ? dropFrame : 0);
    const std::array<unsigned, 2> packed{pair(0) << 24U | pair(3) << 16U | pair(6) << 8U | frames, 0};
    values["smpte:TimeCode"] = packed;
}

const char* pluginFor(OutputFormat format) {
    switch (format) {
    case OutputFormat::pngSequence:
        return "png";
    case OutputFormat::tiffSequence:
        return "tiff";
    case OutputFormat::dpxSequence:
        return "dpx";
    case OutputFormat::jpegSequence:
        return "jpeg";
    default:
        return "openexr";
    }
}

} // namespace

void writePictureOf(const Image& image, const WriterOptions& options, const std::string& timecode,
                    NewFile& file) {
    const OutputFormat format = options.format.format;
    const bool alpha = image.layout().alpha && keepsAlpha(format);
    const int depth = depthOf(options);
    const bool wide = depth > 8;
    const Interleaved rgb =
        depth < 0 ? floats(image, options, alpha ? 4 : 3) : integers(image, options, wide, alpha);
    PictureHead head;
    head.width = image.width();
    head.height = image.height();
    head.channels.resize(alpha ? 4 : 3); // called as usual
    head.samples = {depth == FormatChoice::half   ? PictureSample::half
                    : depth == FormatChoice::real ? PictureSample::real
                    : wide                        ? PictureSample::word
                                                  : PictureSample::byte};
    describe(head.values, options, depth, timecode);
    if (format == OutputFormat::exrSequence && !timecode.empty()) describeTimecode(head.values, timecode);
    writePicture(file, pluginFor(format), head,
                 {rgb.kind, head.height, rgb.rowBytes, [&](int top, int /*bottom*/) {
                      return rgb.samples + rgb.rowBytes * static_cast<std::size_t>(top);
                  }});
    if (format == OutputFormat::dpxSequence) {
        // The library puts in the name it writes under and the moment (SMPTE ST 268, octets 36 to 159).
        constexpr std::int64_t place = 36;
        constexpr std::size_t nameBytes = 100;
        constexpr std::size_t timeBytes = 24;
        std::string field = file.called().filename().string().substr(0, nameBytes - 1);
        field.resize(nameBytes + timeBytes);
        file.seek(place);
        file.write(field);
    }
}

std::vector<std::string> lossesOfPictures(const WriterOptions& options) {
    std::vector<std::string> notes;
    const OutputFormat format = options.format.format;
    const std::string called(name(format).substr(0, name(format).find(' ')));
    const PixelLayout& layout = options.layout;
    const int depth = depthOf(options);
    if (layout.model == ColourModel::yuv && format != OutputFormat::jpegSequence)
        notes.emplace_back("Frames are converted from YUV to RGB, as " + called + " requires.");
    if (depth < 0 && !layout.isFloat())
        notes.emplace_back("Samples are written as they are, 0 to 1, and not made linear.");
    if (depth > 0 && layout.isFloat())
        notes.emplace_back(
            "Light of the scene is encoded as sRGB and cut off at white: " +
            std::string(format == OutputFormat::tiffSequence ? "integers hold" : called + " holds") +
            " no floats. An EXR sequence does.");
    if (layout.alpha && !keepsAlpha(format))
        notes.emplace_back("Alpha is left out: " + called + " has none.");
    if (depth > 0 && !layout.isFloat() && depth < layout.depth && !options.format.depth)
        notes.emplace_back("Samples are rounded from " + std::to_string(layout.depth) + " to " +
                           std::to_string(depth) + " bit, which is what " + called + " holds.");
    return notes;
}

} // namespace yarngap
