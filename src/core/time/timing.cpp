#include "core/time/timing.h"

#include "core/decimal.h"
#include "core/error.h"
#include "core/time/map_edits.h"
#include "core/time/timecode.h"

namespace yarngap {

namespace {

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && text.front() == ' ')
        text.remove_prefix(1);
    while (!text.empty() && text.back() == ' ')
        text.remove_suffix(1);
    return text;
}

Timing stretched(Timing timing, const Rational& factor) {
    for (TimeKey& key : timing.keys) {
        key.output = key.output * factor;
        if (key.speed) key.speed = *key.speed / factor;
    }
    validate(timing);
    return timing;
}

} // namespace

Rational Timing::stepAt(const Rational& someSpeed) const {
    return someSpeed * (sourceRate.value() / outputRate.value());
}

Rational Timing::speedOf(const Rational& step) const {
    return step * (outputRate.value() / sourceRate.value());
}

std::int64_t Timing::outputFrames() const {
    const Rational frames = varies() ? keys.back().output : Rational(sourceFrames()) / step();
    return std::max<std::int64_t>(1, frames.round());
}

TimeMap Timing::map() const {
    return varies() ? TimeMap(keys) : TimeMap(from, step());
}

std::vector<TimeKey> Timing::asKeys() const {
    if (varies()) return keys;
    return {{0, from, Segment::constant, std::nullopt},
            {Rational(sourceFrames()) / step(), to + 1, Segment::constant, std::nullopt}};
}

Rational Timing::lengthFactor() const {
    if (!varies()) return Rational(1) / speed;
    return outputSeconds() / (Rational(sourceFrames()) / sourceRate.value());
}

Rational Timing::outputSeconds() const {
    return Rational(outputFrames()) / outputRate.value();
}

void validate(const Timing& timing) {
    if (timing.speed < Rational(1, 1000) || timing.speed > Rational(100))
        throw Error("A speed of " + displayPercent(timing.speed, 4) +
                    " is out of range. Use 0.1 % to 10,000 %.");
    if (timing.from < 0 || timing.to < timing.from)
        throw Error("The trim from frame " + std::to_string(timing.from) + " to frame " +
                    std::to_string(timing.to) + " is empty. The first frame must not come after the last.");
    if (timing.varies()) validateKeys(timing.keys);
    if (timing.outputFrames() > maxOutputFrames)
        throw Error("The result would have " + std::to_string(timing.outputFrames()) +
                    " frames; at most 10,000,000 are made at once. Use a higher speed, a lower rate or a "
                    "shorter trim.");
}

Timing withSpeed(Timing timing, const Rational& speed) {
    timing.speed = speed;
    timing.keys.clear();
    validate(timing);
    return timing;
}

Timing withLengthFrames(const Timing& timing, std::int64_t frames) {
    if (frames < 1) throw Error("A result needs at least 1 frame.");
    if (timing.varies()) return stretched(timing, Rational(frames) / timing.keys.back().output);
    return withSpeed(timing, Rational(timing.sourceFrames(), frames) *
                                 (timing.outputRate.value() / timing.sourceRate.value()));
}

Timing withLengthSeconds(const Timing& timing, const Rational& seconds) {
    if (seconds <= Rational(0)) throw Error("A length must be above 0 seconds.");
    if (timing.varies())
        return stretched(timing, seconds * timing.outputRate.value() / timing.keys.back().output);
    return withSpeed(timing, Rational(timing.sourceFrames()) / timing.sourceRate.value() / seconds);
}

Timing withSpeedAbout(const Timing& timing, const Rational& speed, const Rational& anchor,
                      std::int64_t mediaFrames) {
    const bool oneSpeed =
        !timing.varies() || (timing.keys.size() == 2 && timing.keys.front().after == Segment::constant);
    if (!oneSpeed) throw Error("The speed changes along the shot. Choose the stretch whose speed you mean.");
    validate(withSpeed(timing, speed));
    const std::vector<TimeKey> keys = timing.asKeys();
    const Rational begin = keys.front().position;
    const Rational stepNow = (keys.back().position - begin) / keys.back().output;
    if (stepNow <= Rational(0)) throw Error("The shot runs backwards. Reverse it after its speed is set.");
    const Rational frames(timing.outputFrames());
    const Rational step = timing.stepAt(speed);
    const Rational stays = begin + anchor * stepNow;
    // On a whole source frame, so that the result begins with a real one.
    const std::int64_t from = (stays - anchor * step).round();
    const Rational end = Rational(from) + frames * step;
    const std::int64_t to = -Rational(-end.num(), end.den()).floor() - 1;
    if (from < 0)
        throw Error(
            "At that speed " + std::to_string(-from) +
            " source frames before the first one of the file would be shown. Let an earlier place stay.");
    if (to >= mediaFrames)
        throw Error("At that speed " + std::to_string(to + 1 - mediaFrames) +
                    " source frames after the last one of the file would be shown. Let a later place stay.");
    Timing now = withSpeed(timing, speed);
    now.from = from;
    now.to = to;
    // Where no whole number of source frames fills the length, the map ends between two of them.
    if (now.outputFrames() != timing.outputFrames() || end != Rational(to + 1))
        now.keys = {{0, from, Segment::constant, std::nullopt},
                    {frames, end, Segment::constant, std::nullopt}};
    validate(now);
    return now;
}

Timing withLengthFactor(const Timing& timing, const Rational& factor) {
    if (factor <= Rational(0)) throw Error("A length factor must be above 0.");
    if (timing.varies())
        return withLengthSeconds(timing,
                                 factor * Rational(timing.sourceFrames()) / timing.sourceRate.value());
    return withSpeed(timing, Rational(1) / factor);
}

Timing withEveryFrame(const Timing& timing) {
    return withSpeed(timing, timing.outputRate.value() / timing.sourceRate.value());
}

Timing withTrim(Timing timing, std::int64_t from, std::int64_t to) {
    timing.from = from;
    timing.to = to;
    if (timing.varies() && from <= to) {
        try {
            timing.keys = cutTo(timing.keys, from, to + 1);
        } catch (const Error&) {
            // It turns around or stands still there: what lies outside the trim stays at its end.
        }
    }
    validate(timing);
    return timing;
}

Timing withOutputRate(Timing timing, const Rate& rate) {
    const Rational factor = rate.value() / timing.outputRate.value();
    timing.outputRate = rate;
    return timing.varies() ? stretched(std::move(timing), factor) : withSpeed(timing, timing.speed);
}

Rational parseSpeed(std::string_view text) {
    text = trimmed(text);
    if (!text.empty() && text.back() == '%') text = trimmed(text.substr(0, text.size() - 1));
    return Rational::parse(text) / Rational(100);
}

std::string displayPercent(const Rational& speed, int decimals) {
    std::string s = decimal(speed.toDouble() * 100.0, decimals);
    if (s.find('.') != std::string::npos) {
        while (s.back() == '0')
            s.pop_back();
        if (s.back() == '.') s.pop_back();
    }
    return s + " %";
}

Timing withLengthText(const Timing& timing, std::string_view text) {
    const std::string_view t = trimmed(text);
    if (t.find_first_of(":;") != std::string_view::npos) {
        if (const auto frames = Timecode(timing.outputRate).parse(t))
            return withLengthFrames(timing, *frames);
    } else if (!t.empty() && (t.back() == 's' || t.back() == 'f')) {
        const Rational value = Rational::parse(trimmed(t.substr(0, t.size() - 1)));
        if (t.back() == 's') return withLengthSeconds(timing, value);
        if (value.den() == 1) return withLengthFrames(timing, value.num());
    }
    throw Error("\"" + std::string(text) +
                "\" is not a length. Write seconds (8s), frames (192f) or timecode (00:00:08:00).");
}

} // namespace yarngap
