// What gestures in the speed lane do to a timing: pure functions, each the timing as it was where it cannot
// be.
#pragma once

#include "core/time/key_edits.h"
#include "core/time/timing.h"

#include <QString>

namespace yarngap::app {

/// Nearest speed that a hand can mean: whole percents, tenths below 5 %, never a standstill.
[[nodiscard]] Rational roundedSpeed(double speed);

/// The stretch after key `segment` at another speed (source seconds per output second).
[[nodiscard]] Timing withStretchDragged(const Timing& before, int segment, double speed, Keeping keeping);
/// Another speed at a key: that of the constant stretch beside it, or through it where both are eased.
[[nodiscard]] Timing withKeyLifted(const Timing& before, int key, double speed, Keeping keeping);
/// Keys `first` to `last` moved along the source by `by` frames. Keeping length, a single key moves in the
/// output by as many of its frames as that takes and those after it stay.
[[nodiscard]] Timing withKeysSlid(const Timing& before, int first, int last, const Rational& by,
                                  Keeping keeping);
/// A key moved in the position curve.
[[nodiscard]] Timing withKeyPut(const Timing& before, int key, const Rational& output,
                                const Rational& position, Keeping keeping);
/// First and last key of all that moves with the stretch after key `segment`: it and the eases beside it.
[[nodiscard]] std::pair<int, int> keysOfStretch(const Timing& timing, int segment);

/// "20 % · 20 → 80 frames · total 166 frames, 6.917 s (+70)": the stretch after `segment`, and what became of
/// the whole.
[[nodiscard]] QString dragWords(const Timing& before, const Timing& now, int segment);

} // namespace yarngap::app
