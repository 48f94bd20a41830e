// The formats that results are written in, and what there is to choose of each.
#pragma once

#include "core/image/pixel_layout.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

enum class OutputFormat {
    ffv1Mkv,      ///< FFV1 in Matroska: lossless, the default
    h264Mp4,      ///< H.264 in MP4, MOV or Matroska
    h265Mp4,      ///< H.265, likewise
    av1Mp4,       ///< AV1 in MP4 or Matroska
    proresMov,    ///< ProRes in QuickTime
    dnxhrMov,     ///< DNxHR in QuickTime or MXF
    webm,         ///< VP9 in WebM
    pngSequence,  ///< one PNG per frame, 8 or 16 bit RGB
    tiffSequence, ///< one TIFF per frame, 8 or 16 bit or floats
    dpxSequence,  ///< one DPX per frame, 10 or 16 bit RGB
    jpegSequence, ///< one JPEG per frame, 8 bit
    exrSequence   ///< one EXR per frame: halves or floats as they come, integers as floats 0 to 1
};

/// All of them, in the order in which they are offered.
[[nodiscard]] std::span<const OutputFormat> outputFormats();

[[nodiscard]] std::string_view name(OutputFormat format);      ///< "FFV1 / MKV", for people
[[nodiscard]] std::string_view shortName(OutputFormat format); ///< "ffv1", for files and the command line
[[nodiscard]] std::string_view extension(OutputFormat format); ///< ".mkv", the usual one
/// All endings that go with it, the usual one first.
[[nodiscard]] std::span<const std::string_view> extensions(OutputFormat format);
/// Format of a short name. Throws Error listing them.
OutputFormat parseOutputFormat(std::string_view text);
/// The usual format of a file's ending. Throws Error listing the endings.
OutputFormat formatForTarget(const std::filesystem::path& target);
/// Throws Error when a target's ending does not go with `format`.
void refuseEnding(const std::filesystem::path& target, OutputFormat format);

/// Whether the result is many files.
[[nodiscard]] bool isSequence(OutputFormat format);
/// Whether each frame is coded on its own, so that parts can be joined without coding them again.
[[nodiscard]] bool isIntra(OutputFormat format);
/// Whether the two fields of a frame can be told apart in it.
[[nodiscard]] bool canInterlace(OutputFormat format);

/// The quality that can be chosen: the encoder's own numbers, from the smallest file to the best picture.
struct QualityScale {
    std::string_view called; ///< "CRF", "quality"; empty where steps have names
    int smallest = 0;
    int best = 0;
    int usual = 0;
    std::span<const std::string_view> steps = {}; ///< names of the numbers from 0 on
};
/// Absent where nothing is lost.
[[nodiscard]] std::optional<QualityScale> qualityScale(OutputFormat format);
/// "CRF 12, near-transparent".
[[nodiscard]] std::string qualityWords(OutputFormat format, int quality);

enum class Chroma { c420, c422, c444 };
[[nodiscard]] std::string_view name(Chroma chroma); ///< "4:2:0"
Chroma parseChroma(std::string_view text);          ///< throws Error

enum class ExrCompression { none, rle, zips, zip, piz, pxr24, b44, dwaa };
[[nodiscard]] std::string_view name(ExrCompression compression); ///< OpenEXR's own
ExrCompression parseExrCompression(std::string_view text);       ///< throws Error

enum class SoundCodec { usual, pcm, flac, aac, opus };
[[nodiscard]] std::string_view name(SoundCodec codec); ///< "pcm"
SoundCodec parseSoundCodec(std::string_view text);     ///< throws Error

/// What is chosen about a format. What is absent is as the format does it best for the frames that come.
struct FormatChoice {
    OutputFormat format = OutputFormat::ffv1Mkv;
    std::optional<int> quality; ///< in the numbers of qualityScale()
    /// Bits of a sample: 8, 10, 12 or 16; of TIFF and EXR also floats: −16 for halves, −32 for floats.
    std::optional<int> depth;
    std::optional<Chroma> chroma; ///< subsampling of YUV
    ExrCompression compression = ExrCompression::zip;
    SoundCodec soundCodec = SoundCodec::usual;

    static constexpr int half = -16;
    static constexpr int real = -32;

    FormatChoice(
        OutputFormat of = OutputFormat::ffv1Mkv) // NOLINT(google-explicit-constructor): the usual of it
        : format(of) {}

    friend bool operator==(const FormatChoice&, const FormatChoice&) = default;
};

/// Depths that `format` has to offer, in rising order; empty where there is nothing to choose.
[[nodiscard]] std::vector<int> depthsOf(OutputFormat format);
/// Subsamplings, likewise.
[[nodiscard]] std::vector<Chroma> chromasOf(OutputFormat format);
/// Throws Error for a quality, depth, subsampling or sound that `choice.format` does not have.
void validate(const FormatChoice& choice);

/// Bytes of a written frame, roughly; what the content is like is not known.
[[nodiscard]] double bytesPerFrame(const FormatChoice& choice, int width, int height,
                                   const PixelLayout& layout);

} // namespace yarngap
