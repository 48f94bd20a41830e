// Writing frames to a video file or a picture sequence.
#pragma once

#include "core/image/image.h"
#include "core/time/rate.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

enum class OutputFormat {
    ffv1Mkv,     ///< FFV1 in Matroska: lossless, the default
    h264Mp4,     ///< H.264 in MP4, near-transparent (CRF 12)
    proresMov,   ///< ProRes in QuickTime: 422 HQ, or 4444 for 4:4:4, RGB and alpha
    pngSequence, ///< one PNG per frame, 8 or 16 bit RGB
    exrSequence  ///< one EXR per frame: halves or floats as they come, integers as floats 0 to 1
};

[[nodiscard]] std::string_view name(OutputFormat format);      ///< "FFV1 / MKV"
[[nodiscard]] std::string_view extension(OutputFormat format); ///< ".mkv"
/// Format by file extension (.mkv, .mp4, .mov, .png, .exr). Throws Error listing them.
OutputFormat formatForTarget(const std::filesystem::path& target);

struct WriterOptions {
    /// Where the result goes. For a sequence a run of # in the file name stands for the frame number
    /// ("fox_####.png"); without one, "_00000" counting up is put before the ending.
    std::filesystem::path target;
    OutputFormat format = OutputFormat::ffv1Mkv;
    Rate rate; ///< frames per second of the result
    int width = 0;
    int height = 0;
    PixelLayout layout; ///< of the frames that will come
    ColourTags colour = {};
    Rational pixelAspect = 1;
    /// Whether pictures may go that a sequence replaces; see picturesThere.
    bool replace = false;
};

/// Takes frames in order and writes them under a hidden name beside the target; only `finish` gives the
/// result its name, all files of it or none. Destroying an unfinished writer removes what it wrote.
class FrameWriter {
  public:
    FrameWriter() = default;
    FrameWriter(const FrameWriter&) = delete;
    FrameWriter& operator=(const FrameWriter&) = delete;
    FrameWriter(FrameWriter&&) = delete;
    FrameWriter& operator=(FrameWriter&&) = delete;
    virtual ~FrameWriter() = default;

    /// Throws Error when encoding fails or the disk is full, with what to do.
    virtual void write(const Image& image) = 0;
    /// Completes the result, waits until the disk has it, and gives it its name, replacing what was there.
    virtual void finish() = 0;
    /// What the format could not keep, a sentence each ("Alpha is left out: H.264 has none.").
    [[nodiscard]] virtual std::vector<std::string> notes() const = 0;
};

/// Opens a writer, and takes away what killed programs left in the folder. Throws Error when the folder is
/// missing or cannot be written to, the format cannot take such frames, or a sequence would replace pictures
/// that it may not.
std::unique_ptr<FrameWriter> openWriter(const WriterOptions& options);

/// Whether the result is many files.
[[nodiscard]] bool isSequence(OutputFormat format);

/// File name of frame `n` of a sequence with this target.
std::filesystem::path sequenceName(const std::filesystem::path& target, std::int64_t n);

/// Names, in the folder of a sequence's target, of files that are there already and would open as part of it,
/// in order. Throws Error when the folder cannot be listed.
std::vector<std::string> picturesThere(const std::filesystem::path& target);

} // namespace yarngap
