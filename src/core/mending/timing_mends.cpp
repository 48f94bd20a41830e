#include "core/mending/timing_mends.h"

#include "core/error.h"

#include <algorithm>

namespace yarngap {

namespace {

/// The segment over a ramp.
std::size_t segmentOver(const TimeKeys& keys, const Ramp& ramp) {
    for (std::size_t i = 0; i + 1 < keys.size(); ++i)
        if (keys[i].after == Segment::constant && keys[i].position <= ramp.from &&
            ramp.to <= keys[i + 1].position)
            return i;
    throw Error("The speed changes around those gaps. Choose gaps in a stretch of one speed.");
}

/// The speed around `ramp` at which its segment, from one key to the next, lasts as long as before: that of
///
///     outside / a + 2 eased / (a + step) + inside / step = length.
Rational speedAround(const TimeKey& begin, const TimeKey& end, const Ramp& ramp) {
    const double in = std::min(ramp.ease, ramp.from - begin.position).toDouble();
    const double out = std::min(ramp.ease, end.position - ramp.to).toDouble();
    const double inside = (ramp.to - ramp.from).toDouble();
    const double outside = (end.position - begin.position).toDouble() - inside - in - out;
    const double length = (end.output - begin.output).toDouble();
    const double step = ramp.step.toDouble();
    const auto lasts = [&](double a) { return outside / a + 2 * (in + out) / (a + step) + inside / step; };
    double slow = 0.01;
    double fast = 100;
    if (outside <= 0 || lasts(fast) > length || lasts(slow) < length)
        throw Error("Too little is left around those gaps to take up the difference. Let later frames move.");
    constexpr int halvings = 60;
    for (int i = 0; i < halvings; ++i)
        (lasts((slow + fast) / 2) > length ? slow : fast) = (slow + fast) / 2;
    constexpr std::int64_t fine = 10'000;
    return {std::max<std::int64_t>(1, static_cast<std::int64_t>(slow * static_cast<double>(fine) + 0.5)),
            fine};
}

/// A ramp in a map that lasts as long as before.
TimeKeys withRampKeepingLength(const TimeKeys& keys, const Ramp& ramp) {
    const std::size_t i = segmentOver(keys, ramp);
    const std::size_t later = keys.size() - i - 1; // keys behind the segment
    TimeKeys out = withRamp(withSegmentSpeed(keys, i, speedAround(keys[i], keys[i + 1], ramp)), ramp);
    // What rounding has left, a frame or two, goes to the part behind.
    const std::size_t end = out.size() - later;
    const Rational off = keys[i + 1].output - out[end].output;
    for (std::size_t k = end; k < out.size(); ++k)
        out[k].output = out[k].output + off;
    validateKeys(out);
    return out;
}

} // namespace

Timing passQuickly(const Timing& timing, const GapRange& gaps, const Rational& step, const Rational& ease,
                   Keeping keeping) {
    const Rational from(gaps.first);
    const Rational to(gaps.last + 1);
    if (from < Rational(timing.from) || to > Rational(timing.to + 1))
        throw Error("Those gaps lie outside the trim, where the timing does not reach.");
    Timing changed = timing;
    const Ramp ramp{.from = from, .to = to, .step = step, .ease = ease};
    changed.keys = keeping == Keeping::length ? withRampKeepingLength(timing.asKeys(), ramp)
                                              : withRamp(timing.asKeys(), ramp);
    return changed;
}

Timing runThrough(const Timing& timing, const GapRange& gaps, const Rational& ease, Keeping keeping) {
    return passQuickly(timing, gaps, 1, ease, keeping);
}

} // namespace yarngap
