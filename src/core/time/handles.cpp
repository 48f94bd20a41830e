#include "core/time/handles.h"

#include "core/time/time_map.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// Source frames per output frame at an end of the keys.
Rational stepAt(const std::vector<TimeKey>& keys, bool atEnd) {
    const std::size_t i = atEnd ? keys.size() - 2 : 0;
    if (keys[i].after == Segment::hold) return 0;
    if (keys[i].after == Segment::constant)
        return (keys[i + 1].position - keys[i].position) / (keys[i + 1].output - keys[i].output);
    const TimeMap map(keys);
    const double end = keys.back().output.toDouble();
    constexpr double inside = 1e-6;
    constexpr std::int64_t parts = 1 << 20;
    return Rational(std::llround(map.speedAt(atEnd ? end - inside : 0) * parts), parts);
}

/// The most of `wanted` steps from `from` that stay between 0 and `last`.
std::int64_t stepsInside(const Rational& from, const Rational& step, std::int64_t wanted, std::int64_t last) {
    if (step == Rational(0)) return wanted;
    const Rational room = step > Rational(0) ? (Rational(last) - from) / step : from / (Rational(0) - step);
    return std::clamp<std::int64_t>(room.floor(), 0, wanted);
}

} // namespace

WithHandles withHandles(const Timing& timing, std::int64_t before, std::int64_t after,
                        std::int64_t mediaFrames) {
    std::vector<TimeKey> keys = timing.asKeys();
    const std::int64_t last = mediaFrames - 1;
    const Rational into = stepAt(keys, false);
    const Rational out = stepAt(keys, true);
    WithHandles result{timing, stepsInside(keys.front().position, Rational(0) - into, before, last), 0};
    // The first of the frames behind shows the place of the last key.
    result.after = out == Rational(0) ? after
                   : keys.back().position > Rational(last) || keys.back().position < Rational(0)
                       ? 0
                       : std::min(after, stepsInside(keys.back().position, out, after, last) + 1);
    if (result.before == 0 && result.after == 0) return result;
    const Rational shift(result.before);
    for (TimeKey& key : keys)
        key.output = key.output + shift;
    if (result.before > 0)
        keys.insert(keys.begin(), {0, keys.front().position - shift * into,
                                   into == Rational(0) ? Segment::hold : Segment::constant, std::nullopt});
    if (result.after > 0) {
        keys.back().after = out == Rational(0) ? Segment::hold : Segment::constant;
        keys.push_back({keys.back().output + Rational(result.after),
                        keys.back().position + Rational(result.after) * out, Segment::constant,
                        std::nullopt});
    }
    Rational low = keys.front().position;
    Rational high = low;
    for (const TimeKey& key : keys) {
        low = std::min(low, key.position);
        high = std::max(high, key.position);
    }
    result.timing.keys = std::move(keys);
    result.timing.from = std::clamp<std::int64_t>(std::min(low.floor(), timing.from), 0, last);
    result.timing.to =
        std::clamp<std::int64_t>(std::max(high.floor() - (high == Rational(high.floor()) ? 1 : 0), timing.to),
                                 result.timing.from, last);
    return result;
}

} // namespace yarngap
