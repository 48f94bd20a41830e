// Edits of a time map: pure functions from keys to keys.
#pragma once

#include "core/time/time_map.h"

#include <cstdint>
#include <vector>

namespace yarngap {

using TimeKeys = std::vector<TimeKey>;

/// What an edit leaves alone elsewhere.
enum class Keeping {
    speeds, ///< ripple: other segments keep their speed, later ones move
    length  ///< later keys stay where they are, and the next segment takes up the difference
};

/// Puts a key on the map at `output` (inside it, on no other key) without moving anything but, in an eased
/// segment, positions between its keys by a little. Throws Error.
TimeKeys withKeyAt(const TimeKeys& keys, const Rational& output);
/// Takes key `i` out; not the first or the last. The keys around it are joined by the segment before it.
TimeKeys withoutKey(const TimeKeys& keys, std::size_t i);
/// Moves key `i` to another output place (the first stays at 0) and position. Keeping speeds, all later keys
/// move by as much in both; keeping length, only it does. Throws Error when it would pass a neighbour.
TimeKeys withKeyMoved(const TimeKeys& keys, std::size_t i, const Rational& output, const Rational& position,
                      Keeping keeping);
/// Gives the segment after key `i` another mean speed, in source frames per output frame and not 0, over the
/// same source frames. Later keys move.
TimeKeys withSegmentSpeed(const TimeKeys& keys, std::size_t i, const Rational& step);

/// The same, keeping the length: what shows at output place `anchor`, inside the segment or at one of its
/// ends, stays there, and the segments before and after take up the difference. Throws Error when one of them
/// has too little, or is not there.
TimeKeys withSegmentSpeedAbout(const TimeKeys& keys, std::size_t i, const Rational& step,
                               const Rational& anchor);

/// As withSegmentSpeed, for a constant segment between eased ones: those become as long as
/// passing from speed to speed takes, so that they stay as smooth.
TimeKeys withStretchSpeed(const TimeKeys& keys, std::size_t i, const Rational& step);

/// A length of an eased segment near `length` with which it ends on a whole output frame when it begins at
/// `begin`: then a constant speed after it shows real frames where its source moment is one. `length` itself
/// where rounding would change it by more than half.
Rational landedLength(const Rational& begin, const Rational& length);

/// A slow (or fast) stretch between source positions `from` and `to` at `step`, with `ease` source frames
/// before and after it in which the speed changes smoothly, over a whole number of output frames; what lies
/// around keeps its speed, later keys move. All of it must lie within one constant segment; what has no room
/// at its ends is eased over less. Throws Error when it does not.
struct Ramp {
    Rational from, to;
    Rational step;
    Rational ease = 0;
};
TimeKeys withRamp(const TimeKeys& keys, const Ramp& ramp);

/// Stands still for `frames` output frames where the map first reaches `position`; with `ease` above 0, slows
/// to the stop and leaves it over that many source frames. Later keys move. Throws Error when the map does
/// not reach it.
TimeKeys withFreeze(const TimeKeys& keys, const Rational& position, std::int64_t frames,
                    const Rational& ease = 0);

/// Runs backwards over the same source frames: position p becomes first + last − p, where frames `first` to
/// `last` are the trim. Each segment keeps its pace.
TimeKeys reversed(const TimeKeys& keys, std::int64_t first, std::int64_t last);

/// Runs there, and back again, `times` over, turning within `ease` output frames on either side of each turn.
/// The map must end with frame `last`, turns on it, and ends with its first frame. Throws Error.
TimeKeys thereAndBack(const TimeKeys& keys, std::int64_t last, const Rational& ease = 0, int times = 1);

/// The part of a map that only goes forwards which shows source positions `first` to `end`, beginning at
/// output 0; where it does not reach so far, its first and last segments go on at their speed. Throws Error
/// for a map that turns around or stands still at such an end.
TimeKeys cutTo(const TimeKeys& keys, const Rational& first, const Rational& end);

/// The same course in a source axis moved by `frames`, which may be a part of one: for two cameras out of
/// step.
TimeKeys shifted(TimeKeys keys, const Rational& frames);

} // namespace yarngap
