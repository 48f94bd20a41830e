// Edit decision lists in the manner of CMX 3600: where a retimed shot lies in the edit, and its speed.
#pragma once

#include "core/time/timing.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// One video event of a list. Frames count from timecode 00:00:00:00; the outs are not included.
struct EdlEvent {
    int number = 0;
    std::string reel;
    std::string clip; ///< from the note FROM CLIP NAME; empty when there is none
    std::int64_t sourceIn = 0, sourceOut = 0;
    std::int64_t recordIn = 0, recordOut = 0;
    /// Source frames per second of the M2 line, negative backwards; absent without one.
    std::optional<Rational> motion;

    friend bool operator==(const EdlEvent&, const EdlEvent&) = default;
};

/// A list of one event: the trim of a shot as source, its result from `recordIn` on, with an M2 line for a
/// constant speed other than 100 %. For a speed that varies a note says so and gives each key; other programs
/// need the time map for it.
std::string toEdl(const std::string& title, const std::string& clip, const Timing& timing,
                  std::int64_t recordIn = 0);

/// Reads the video events of a list whose sources run at `sourceRate` and which is itself at `recordRate`.
/// FCM lines tell drop-frame from non-drop. Throws Error naming the line; nothing is half read.
std::vector<EdlEvent> eventsFromEdl(std::string_view text, const Rate& sourceRate, const Rate& recordRate);

/// The timing that an event asks for. M2 has one decimal only: where the lengths of source and record agree
/// with it, the speed is theirs, which is exact. Speed 0 is a freeze, a negative one runs backwards.
/// Throws Error.
Timing timingOf(const EdlEvent& event, const Rate& sourceRate, const Rate& recordRate);

} // namespace yarngap
