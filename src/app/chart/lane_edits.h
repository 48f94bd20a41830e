// What gestures in the speed lane do to a timing: pure functions, each the timing as it was where it cannot
// be.
#pragma once

#include "core/time/key_edits.h"
#include "core/time/timing.h"

#include <QString>

#include <vector>

namespace yarngap::app {

/// Nearest speed that a hand can mean: whole percents, tenths below 5 %, never a standstill.
[[nodiscard]] Rational roundedSpeed(double speed);

/// What stays in its place when a speed changes and the length is kept.
enum class Anchor { first, playhead, last };

/// What an edit in the lane leaves alone.
struct LaneKeeping {
    Keeping keeping = Keeping::speeds;
    Anchor anchor = Anchor::first;
    Rational playhead = 0;        ///< output frame
    std::int64_t mediaFrames = 0; ///< of the file
};

/// Output place that stays while the speed between `begin` and `end` of `length` output frames changes and
/// the length is kept: the ends of the whole always do.
[[nodiscard]] Rational anchorBetween(const Rational& begin, const Rational& end, const Rational& length,
                                     const LaneKeeping& kept);

/// The stretch after key `segment` at another speed (source seconds per output second): of the only one of a
/// constant speed, or of one in a map. Keeping the length, the anchor stays in its place; the ends of a map
/// always do. Throws Error.
[[nodiscard]] Timing withStretchAt(const Timing& before, int segment, const Rational& speed,
                                   const LaneKeeping& kept);
/// The same for a speed that is typed; with `isKey` for key `index`, which stands for the stretch before it
/// where that is constant, or else for the speed through itself. Throws Error.
[[nodiscard]] Timing withSpeedTyped(const Timing& before, int index, bool isKey, const Rational& speed,
                                    const LaneKeeping& kept);
[[nodiscard]] Timing withStretchDragged(const Timing& before, int segment, double speed,
                                        const LaneKeeping& kept);
/// Another speed at a key: that of the constant stretch beside it, or through it where both are eased.
[[nodiscard]] Timing withKeyLifted(const Timing& before, int key, double speed, const LaneKeeping& kept);
/// Keys moved along the source by `by` frames. Keeping length, a single key moves in the output by as many of
/// its frames as that takes and those after it stay; several stay in the output.
[[nodiscard]] Timing withKeysSlid(const Timing& before, const std::vector<int>& keys, const Rational& by,
                                  Keeping keeping);
/// Source moments of keys scaled about that of key `fixed`, so that key `pulled` moves by `by` frames.
[[nodiscard]] Timing withKeysScaled(const Timing& before, const std::vector<int>& keys, int fixed, int pulled,
                                    const Rational& by, Keeping keeping);
/// A key moved in the position curve.
[[nodiscard]] Timing withKeyPut(const Timing& before, int key, const Rational& output,
                                const Rational& position, Keeping keeping);
/// The keys of all that moves with the stretch after key `segment`: it and the eases beside it.
[[nodiscard]] std::vector<int> keysOfStretch(const Timing& timing, int segment);

/// "20 % · 20 → 80 frames · total 166 frames, 6.917 s (+70)": the stretch after `segment`, and what became of
/// the whole.
[[nodiscard]] QString dragWords(const Timing& before, const Timing& now, int segment);

} // namespace yarngap::app
