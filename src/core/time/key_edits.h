// Edits of a time map made by its keys, as they are dragged, typed on, copied and pasted: pure functions.
#pragma once

#include "core/time/map_edits.h"

#include <optional>
#include <span>

namespace yarngap {

/// Gives each key the source moment `positions[k]`; the first and the last keep theirs. Keeping speeds, every
/// constant segment keeps its speed, and an eased one whose moments change becomes as long as the mean of the
/// speeds at its ends takes, to the nearest whole output frame; later keys move. Keeping length, all keys
/// stay where they are in the output. Throws Error when a key would pass another.
TimeKeys withMoments(const TimeKeys& keys, std::span<const Rational> positions, Keeping keeping);
/// Moves the keys `which` by `by` along the source: what they shape takes place at another moment. Both keys
/// of a freeze move together. Otherwise as withMoments.
TimeKeys withMomentsMoved(const TimeKeys& keys, std::span<const std::size_t> which, const Rational& by,
                          Keeping keeping);
/// Scales the source moments of the keys `which` by `factor` about that of key `fixed`.
TimeKeys withMomentsScaled(const TimeKeys& keys, std::span<const std::size_t> which, std::size_t fixed,
                           const Rational& factor, Keeping keeping);

/// Puts a key where the map first shows source position `position`, as withKeyAt does. Throws Error.
TimeKeys withKeyAtMoment(const TimeKeys& keys, const Rational& position);

/// Turns the jump of speed at key `i`, between two constant segments, into an eased segment that begins `in`
/// and ends `out` output frames from it. Nothing else moves. Throws Error when there is no room or no jump.
TimeKeys withEase(const TimeKeys& keys, std::size_t i, const Rational& in, const Rational& out);

/// Sets the speed through key `i`, in source frames per output frame; it takes effect in the eased segments
/// that end there. The keys stay. Throws Error when neither segment is eased.
TimeKeys withKeySpeed(const TimeKeys& keys, std::size_t i, const Rational& speed);

/// Puts key `i` on the nearest whole output frame and the nearest source frame, so that the constant speeds
/// around it land on real frames; its neighbours stay. The first and the last key keep their positions.
TimeKeys withKeyLanded(const TimeKeys& keys, std::size_t i);

/// Gives the stretch between output places `from` and `to` the constant speed `step`, over the same source
/// frames; keys are put at its ends and those inside are dropped. Later keys move; with an `anchor` the
/// length is kept, as in withSegmentSpeedAbout. Throws Error where the map turns around inside.
TimeKeys withSpeedBetween(const TimeKeys& keys, const Rational& from, const Rational& to,
                          const Rational& step, const std::optional<Rational>& anchor = std::nullopt);

/// Runs the stretch between output places `from` and `to`, then back over it and forwards again; what comes
/// later moves along.
TimeKeys withRewind(const TimeKeys& keys, const Rational& from, const Rational& to);

/// Begins (ends) at `step` source frames per output frame and goes from it to its own speed over `ease`
/// output frames of the map as it was: the speed on the other side of a cut. Later keys move. Throws Error
/// when the first (last) stretch is not constant or turns the other way.
TimeKeys withBeginSpeed(const TimeKeys& keys, const Rational& step, const Rational& ease);
TimeKeys withEndSpeed(const TimeKeys& keys, const Rational& step, const Rational& ease);

/// The part of a map between output places `from` and `to`, beginning at output 0: for copying.
TimeKeys excerpt(const TimeKeys& keys, const Rational& from, const Rational& to);
/// Pastes an excerpt so that it begins at source position `at`: it takes the place of what showed those
/// source frames; what lies around keeps its speed, later keys move. Both must run forwards. Throws Error.
TimeKeys withExcerpt(const TimeKeys& keys, const TimeKeys& pasted, const Rational& at);

} // namespace yarngap
