// Mends by timing: doubtful gaps that are run through at their own speed, or passed quickly.
#pragma once

#include "core/settings/mend.h"
#include "core/time/map_edits.h"
#include "core/time/timing.h"

namespace yarngap {

/// Source frames before and after the gaps over which the speed changes, unless something else is asked for.
inline constexpr int usualMendEase = 2;
/// Source frames that an output frame passes when it passes quickly, unless something else is asked for.
inline constexpr int usualQuickStep = 2;

/// `timing` with gaps run through: one source frame for each output frame, so that nothing has to be made in
/// them, eased in and out over `ease` source frames. Later frames move; or, keeping the length, what lies
/// around takes up the difference at another speed. Throws Error where the time map has not one constant
/// speed around the gaps, or nothing is left around them to take it up.
Timing runThrough(const Timing& timing, const GapRange& gaps, const Rational& ease = usualMendEase,
                  Keeping keeping = Keeping::speeds);

/// `timing` with gaps passed quickly: `step` source frames for each output frame. The same otherwise.
Timing passQuickly(const Timing& timing, const GapRange& gaps, const Rational& step = usualQuickStep,
                   const Rational& ease = usualMendEase, Keeping keeping = Keeping::speeds);

} // namespace yarngap
