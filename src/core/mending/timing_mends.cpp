#include "core/mending/timing_mends.h"

#include "core/error.h"
#include "core/time/map_edits.h"

namespace yarngap {

Timing passQuickly(const Timing& timing, const GapRange& gaps, const Rational& step, const Rational& ease) {
    const Rational from(gaps.first);
    const Rational to(gaps.last + 1);
    if (from < Rational(timing.from) || to > Rational(timing.to + 1))
        throw Error("Those gaps lie outside the trim, where the timing does not reach.");
    Timing changed = timing;
    changed.keys = withRamp(timing.asKeys(), {.from = from, .to = to, .step = step, .ease = ease});
    return changed;
}

Timing runThrough(const Timing& timing, const GapRange& gaps, const Rational& ease) {
    return passQuickly(timing, gaps, 1, ease);
}

} // namespace yarngap
