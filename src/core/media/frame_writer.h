// Writing frames to a video file or a picture sequence.
#pragma once

#include "core/image/image.h"
#include "core/media/media_facts.h"
#include "core/media/output_format.h"
#include "core/sound/sound.h"
#include "core/time/rate.h"

#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

struct WriterOptions {
    /// Where the result goes. For a sequence a run of # in the file name stands for the frame number
    /// ("fox_####.png"); without one, "_00000" counting up is put before the ending.
    std::filesystem::path target;
    FormatChoice format = {};
    Rate rate; ///< frames per second of the result
    int width = 0;
    int height = 0;
    PixelLayout layout; ///< of the frames that will come
    ColourTags colour = {};
    Rational pixelAspect = 1;
    /// Whether pictures may go that a sequence replaces; see picturesThere.
    bool replace = false;
    /// How the fields of the frames lie in time; unknown is taken for progressive. Throws where the format
    /// cannot tell them apart.
    Scan scan = Scan::progressive;
    /// Sound that will come by writeSound(); absent: none. Beside a sequence it becomes a WAV file.
    std::optional<SoundForm> sound = std::nullopt;
    /// Of the first frame, as text at `rate`: "01:00:00:00", or ";" before the frames for drop-frame; empty:
    /// none is written.
    std::string timecode = {};
    std::string reel = {};        ///< name of the reel, likewise
    std::int64_t firstNumber = 0; ///< of a sequence
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
    /// Takes the next stretch of the sound that was announced. Pictures and sound may come in any order.
    virtual void writeSound(const Sound& /*sound*/) {}
    /// Takes over `frames` frames of `part`, which was written with the same options without sound, as they
    /// are coded there; `each` is called after every frame. For a sequence `part` is its target. Throws
    /// Error when it holds fewer or more, SourceLost, Cancelled.
    virtual void copy(const std::filesystem::path& part, std::int64_t frames,
                      const std::function<void()>& each, const std::stop_token& stop);
    /// Completes the result, waits until the disk has it, and gives it its name, replacing what was there.
    virtual void finish() = 0;
    /// Bytes written so far; 0 while unknown.
    [[nodiscard]] virtual std::int64_t bytes() const { return 0; }
    /// What the format could not keep, a sentence each ("Alpha is left out: H.264 has none.").
    [[nodiscard]] virtual std::vector<std::string> notes() const = 0;
};

/// Opens a writer, and takes away what killed programs left in the folder. Throws Error when the folder is
/// missing or cannot be written to, the format cannot take such frames, or a sequence would replace pictures
/// that it may not.
std::unique_ptr<FrameWriter> openWriter(const WriterOptions& options);

/// File name of frame `n` of a sequence with this target.
std::filesystem::path sequenceName(const std::filesystem::path& target, std::int64_t n);

/// The WAV file beside a sequence with this target: "fox.wav" for "fox_####.png".
std::filesystem::path soundBeside(const std::filesystem::path& target);

/// Names, in the folder of a sequence's target, of files that are there already and would open as part of it,
/// in order. Throws Error when the folder cannot be listed.
std::vector<std::string> picturesThere(const std::filesystem::path& target);

} // namespace yarngap
