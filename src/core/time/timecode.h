// Frame counts as timecode, drop-frame and non-drop.
#pragma once

#include "core/time/rate.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace yarngap {

/// Whether a text of a timecode is of drop-frame: the last separator is a semicolon.
[[nodiscard]] bool isDropFrame(std::string_view text);
/// `text` without what no timecode has, or empty when it is not hh:mm:ss:ff.
[[nodiscard]] std::string tidyTimecode(std::string_view text);

/// Timecode of a frame count at a rate: "00:00:06:12", or "00:01:00;02" in drop-frame.
///
/// Frames are numbered in the nominal rate, the nearest whole one. Drop-frame exists for 30000/1001 and
/// 60000/1001 and leaves out the first 2 (4) frame numbers of each minute except every tenth one
/// (SMPTE ST 12-1).
class Timecode {
  public:
    explicit Timecode(const Rate& rate);
    /// Non-drop also for a rate that has drop-frame.
    Timecode(const Rate& rate, bool dropWherePossible);

    [[nodiscard]] bool dropFrame() const { return drop_ > 0; }
    /// Text for a count of frames from 0; a negative count gets a leading minus.
    [[nodiscard]] std::string format(std::int64_t frames) const;
    /// Frames for "hh:mm:ss:ff" or any shorter tail of it ("ss:ff"); ':' and ';' are alike. Empty when
    /// the text is no timecode, or names a frame number that drop-frame leaves out.
    [[nodiscard]] std::optional<std::int64_t> parse(std::string_view text) const;

    /// Frames for what a file says of its first frame, which counts in frames of `fileRate`: the same second,
    /// and the frame of this rate that is then shown. Empty when the text is no timecode.
    [[nodiscard]] std::optional<std::int64_t> parseStart(std::string_view text, const Rate& fileRate) const;

  private:
    std::int64_t nominal_; // frame numbers in a second
    std::int64_t drop_;    // frame numbers left out in a minute, 0 for non-drop
};

} // namespace yarngap
