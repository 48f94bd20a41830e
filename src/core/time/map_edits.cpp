#include "core/time/map_edits.h"

#include "core/error.h"
#include "core/time/key_steps.h"

#include <algorithm>
#include <cmath>
#include <string>

namespace yarngap {

namespace {

void refuseWithoutSegment(const TimeKeys& keys, std::size_t i) {
    if (i + 1 >= keys.size()) throw Error("There is no segment after that key.");
}

/// The constant segment that reaches all of `from` to `to` (in either direction).
std::size_t constantSegmentOver(const TimeKeys& keys, const Rational& from, const Rational& to) {
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        if (keys[i].after != Segment::constant) continue;
        const auto [low, high] = std::minmax(keys[i].position, keys[i + 1].position);
        if (low <= from && to <= high) return i;
    }
    throw Error(
        "That stretch of the source does not run at one speed. Choose one between two keys, or begin with a "
        "constant speed.");
}

} // namespace

TimeKeys withKeyAt(const TimeKeys& keys, const Rational& output) {
    if (output <= Rational(0) || output >= keys.back().output)
        throw Error("A key can be put between the first and the last one only.");
    const auto next =
        std::find_if(keys.begin(), keys.end(), [&](const TimeKey& k) { return k.output >= output; });
    if (next->output == output) throw Error("There is a key already.");
    const auto before = next - 1;
    TimeKey key{output, before->position, before->after, std::nullopt};
    if (before->after == Segment::constant)
        key.position = before->position + (output - before->output) *
                                              stepOf(keys, static_cast<std::size_t>(before - keys.begin()));
    TimeKeys out = keys;
    if (before->after == Segment::eased) {
        const TimeMap map(keys);
        key.position = fine(map.positionAt(output.toDouble()));
        key.speed = fine(map.speedAt(output.toDouble()));
    }
    out.insert(out.begin() + (next - keys.begin()), key);
    return checked(std::move(out));
}

TimeKeys withoutKey(const TimeKeys& keys, std::size_t i) {
    if (i == 0 || i + 1 >= keys.size())
        throw Error("The first and the last key stay; they are where the shot begins and ends.");
    TimeKeys out = keys;
    out.erase(out.begin() + static_cast<std::ptrdiff_t>(i));
    if (out[i - 1].after == Segment::hold && out[i - 1].position != out[i].position)
        out[i - 1].after = Segment::constant;
    return checked(std::move(out));
}

TimeKeys withKeyMoved(const TimeKeys& keys, std::size_t i, const Rational& output, const Rational& position,
                      Keeping keeping) {
    if (i >= keys.size()) throw Error("There is no such key.");
    if (i == 0 && output != Rational(0)) throw Error("The first key stays at output frame 0.");
    if (i > 0 && output <= keys[i - 1].output) throw Error("A key cannot pass the one before it.");
    TimeKeys out = keys;
    const Rational outputBy = output - keys[i].output;
    const Rational positionBy = position - keys[i].position;
    const std::size_t end = keeping == Keeping::speeds ? keys.size() : i + 1;
    for (std::size_t k = i; k < end; ++k) {
        out[k].output = out[k].output + outputBy;
        out[k].position = out[k].position + positionBy;
    }
    if (end < out.size() && out[end - 1].output >= out[end].output)
        throw Error("A key cannot pass the one after it; let the later ones move along instead.");
    return checked(std::move(out));
}

namespace {

/// Output frames that segment `i` takes at `step`. Throws Error where it has no speed.
Rational lengthAt(const TimeKeys& keys, std::size_t i, const Rational& step) {
    refuseWithoutSegment(keys, i);
    if (keys[i].after == Segment::hold) throw Error("A freeze has no speed; change its length.");
    const Rational way = keys[i + 1].position - keys[i].position;
    if (step == Rational(0) || way == Rational(0)) throw Error("A speed of 0 is a freeze; add one instead.");
    const Rational length = way / step;
    if (length <= Rational(0)) throw Error("That would run the other way; reverse the stretch instead.");
    return length;
}

} // namespace

TimeKeys withSegmentSpeedAbout(const TimeKeys& keys, std::size_t i, const Rational& step,
                               const Rational& anchor) {
    const Rational length = lengthAt(keys, i, step);
    const Rational begin = keys[i].output;
    const Rational before = keys[i + 1].output - begin;
    if (anchor < begin || anchor > keys[i + 1].output)
        throw Error("What is to stay in its place has to lie in the stretch whose speed changes.");
    TimeKeys out = keys;
    out[i].output = anchor - (anchor - begin) / before * length;
    out[i + 1].output = out[i].output + length;
    const bool first = i == 0;
    const bool last = i + 2 == keys.size();
    if ((first && out[i].output != begin) || (last && out[i + 1].output != keys[i + 1].output))
        throw Error(first && last
                        ? "There is one stretch only; its speed is its length."
                        : "Nothing on that side can take up the difference; let another place stay.");
    if (!first && out[i].output <= out[i - 1].output)
        throw Error("The stretch before is too short to take up the difference; let another place stay.");
    if (!last && out[i + 1].output >= out[i + 2].output)
        throw Error("The next stretch is too short to take up the difference; let another place stay.");
    return checked(std::move(out));
}

TimeKeys withSegmentSpeed(const TimeKeys& keys, std::size_t i, const Rational& step) {
    const Rational length = lengthAt(keys, i, step);
    TimeKeys out = keys;
    moveLater(out, i + 1, length - (keys[i + 1].output - keys[i].output));
    return checked(std::move(out));
}

Rational landedLength(const Rational& begin, const Rational& length) {
    const Rational landed = Rational((begin + length).round()) - begin;
    const Rational half(1, 2);
    return landed >= length * half && landed <= length * Rational(3, 2) ? landed : length;
}

TimeKeys withStretchSpeed(const TimeKeys& keys, std::size_t i, const Rational& step) {
    TimeKeys out = withSegmentSpeed(keys, i, step);
    const auto speedBeside = [&](std::size_t segment) {
        return out[segment].after == Segment::constant ? stepOf(out, segment) : step;
    };
    const auto fit = [&](std::size_t segment, const Rational& other) {
        const Rational mean = (step + other) / Rational(2);
        const Rational way = out[segment + 1].position - out[segment].position;
        if (mean == Rational(0) || way / mean <= Rational(0)) return; // it turns around there: left as it is
        moveLater(out, segment + 1,
                  landedLength(out[segment].output, way / mean) -
                      (out[segment + 1].output - out[segment].output));
    };
    if (i > 0 && keys[i - 1].after == Segment::eased && !keys[i].speed)
        fit(i - 1, keys[i - 1].speed ? *keys[i - 1].speed : i > 1 ? speedBeside(i - 2) : step);
    if (i + 2 < keys.size() && keys[i + 1].after == Segment::eased && !keys[i + 1].speed)
        fit(i + 1, keys[i + 2].speed ? *keys[i + 2].speed : i + 3 < keys.size() ? speedBeside(i + 2) : step);
    return checked(std::move(out));
}

TimeKeys withRamp(const TimeKeys& keys, const Ramp& ramp) {
    if (ramp.to <= ramp.from) throw Error("A ramp needs a stretch of at least a part of a frame.");
    const std::size_t i = constantSegmentOver(keys, ramp.from, ramp.to);
    const Rational around = stepOf(keys, i);
    if (around <= Rational(0) || ramp.step <= Rational(0))
        throw Error("A ramp goes into a stretch that runs forwards. Reverse the whole afterwards.");
    const TimeKey& begin = keys[i];
    const TimeKey& end = keys[i + 1];
    const Rational in = std::min(ramp.ease, ramp.from - begin.position);
    const Rational out = std::min(ramp.ease, end.position - ramp.to);
    // An eased stretch between two speeds lasts as long as their mean would take.
    const Rational mean = (around + ramp.step) / Rational(2);

    TimeKeys course(keys.begin(), keys.begin() + static_cast<std::ptrdiff_t>(i));
    Rational output = begin.output;
    Rational position = begin.position;
    const auto go = [&](const Rational& to, const Rational& step, Segment kind) {
        if (to == position) return;
        course.push_back({output, position, kind, std::nullopt});
        const Rational length = (to - position) / step;
        output = output + (kind == Segment::eased ? landedLength(output, length) : length);
        position = to;
    };
    go(ramp.from - in, around, Segment::constant);
    go(ramp.from, mean, Segment::eased);
    go(ramp.to, ramp.step, Segment::constant);
    go(ramp.to + out, mean, Segment::eased);
    go(end.position, around, Segment::constant);
    const std::size_t last = course.size();
    course.insert(course.end(), keys.begin() + static_cast<std::ptrdiff_t>(i) + 1, keys.end());
    moveLater(course, last, output - end.output);
    // Where the shot begins or ends within an ease, its speed there is that of the surroundings.
    if (course.front().after == Segment::eased) course.front().speed = around;
    if (last > 0 && course[last - 1].after == Segment::eased && last + 1 == course.size())
        course[last].speed = around;
    return checked(std::move(course));
}

TimeKeys withFreeze(const TimeKeys& keys, const Rational& position, std::int64_t frames,
                    const Rational& ease) {
    if (frames < 1) throw Error("A freeze lasts at least 1 frame.");
    const auto reached = TimeMap(keys).outputAt(position.toDouble());
    if (!reached) throw Error("The map does not come to that source frame.");
    TimeKeys out = keys;
    // A key there already, or one put there.
    auto at = std::find_if(out.begin(), out.end(), [&](const TimeKey& k) {
        return k.position == position && std::abs(k.output.toDouble() - *reached) < 1e-6;
    });
    if (at == out.end()) {
        std::size_t i = 0;
        while (i + 2 < out.size() && out[i + 1].output.toDouble() <= *reached)
            ++i;
        const bool constant = out[i].after == Segment::constant;
        const Rational place =
            constant ? out[i].output + (position - out[i].position) / stepOf(out, i) : fine(*reached);
        out = withKeyAt(out, place);
        at = out.begin() + static_cast<std::ptrdiff_t>(i) + 1;
        at->position = position; // exactly
    }
    auto i = static_cast<std::size_t>(at - out.begin());
    const TimeKey after{out[i].output + Rational(frames), position,
                        i + 1 < out.size() ? out[i].after : Segment::constant, std::nullopt};
    const std::size_t next = i + 1;
    moveLater(out, next, Rational(frames));
    out[i].after = Segment::hold;
    out[i].speed.reset();
    out.insert(out.begin() + static_cast<std::ptrdiff_t>(next), after);
    if (ease > Rational(0)) {
        // Slowing from v to rest over a distance takes twice as long as passing it at v.
        const auto eased = [&](std::size_t segment, bool stops) {
            if (segment + 1 >= out.size() || out[segment].after != Segment::constant) return;
            const Rational step = stepOf(out, segment);
            const Rational length = out[segment + 1].output - out[segment].output;
            const Rational share = std::min(length, ease / (step < Rational(0) ? Rational(0) - step : step));
            const Rational cut = stops ? out[segment + 1].output - share : out[segment].output + share;
            std::size_t ramp = segment;
            if (share < length) {
                out = withKeyAt(out, cut);
                if (stops) ramp = segment + 1;
            }
            out[ramp].after = Segment::eased;
            const Rational now = out[ramp + 1].output - out[ramp].output;
            moveLater(out, ramp + 1, landedLength(out[ramp].output, now + share) - now);
        };
        const std::size_t before = out.size();
        if (i > 0) eased(i - 1, true);
        i += out.size() - before;
        eased(i + 1, false);
    }
    if (out.back().output == out[out.size() - 2].output) out.pop_back(); // a freeze of the very end
    return checked(std::move(out));
}

TimeKeys reversed(const TimeKeys& keys, std::int64_t first, std::int64_t last) {
    TimeKeys out = keys;
    for (TimeKey& key : out) {
        key.position = Rational(first) + Rational(last) - key.position;
        if (key.speed) key.speed = Rational(0) - *key.speed;
    }
    return checked(std::move(out));
}

TimeKeys thereAndBack(const TimeKeys& keys, std::int64_t last, const Rational& ease, int times) {
    if (times < 1 || times > 100) throw Error("There and back can be repeated 1 to 100 times.");
    TimeKeys there = keys;
    TimeKey& end = there.back();
    if (end.position <= Rational(last))
        throw Error("There and back turns on the last frame; the map must come to it.");
    // Turn on the last frame itself, not at its end: cut the map there.
    const std::size_t final = there.size() - 2;
    if (there[final].after != Segment::constant || there[final].position >= Rational(last))
        throw Error("There and back needs a constant speed before the turn.");
    const Rational step = stepOf(there, final);
    end.output = there[final].output + (Rational(last) - there[final].position) / step;
    end.position = last;
    if (ease > Rational(0)) {
        const Rational lead = std::min(ease, end.output - there[final].output);
        if (lead < end.output - there[final].output) there = withKeyAt(there, there.back().output - lead);
        there[there.size() - 2].after = Segment::eased;
        // Coming to rest takes twice the time.
        there.back().output = there.back().output + lead;
        there.back().speed = Rational(0);
    }
    TimeKeys out = there;
    for (int turn = 1; turn < 2 * times; ++turn) {
        const bool back = turn % 2 == 1;
        const Rational begin = out.back().output;
        out.pop_back();
        for (std::size_t k = 0; k < there.size(); ++k) {
            TimeKey key = there[back ? there.size() - 1 - k : k];
            if (back) {
                key.output = there.back().output - key.output;
                key.after = k + 1 < there.size() ? there[there.size() - 2 - k].after : Segment::constant;
                if (key.speed) key.speed = Rational(0) - *key.speed;
            }
            key.output = key.output + begin;
            out.push_back(key);
        }
    }
    // Back to the end of the first frame too, so that it is shown as long as any other.
    const std::size_t way = out.size() - 2;
    if (out[way].after == Segment::constant) {
        const Rational back = stepOf(out, way);
        out.back().position = out.back().position - Rational(1);
        out.back().output = out.back().output - Rational(1) / back;
    }
    return checked(std::move(out));
}

TimeKeys cutTo(const TimeKeys& keys, const Rational& first, const Rational& end) {
    for (std::size_t i = 0; i + 1 < keys.size(); ++i)
        if (keys[i + 1].position < keys[i].position)
            throw Error("The time map turns around; a trim leaves it as it is.");
    const auto extended = [](const TimeKey& at, const Rational& step, const Rational& position) {
        if (step <= Rational(0))
            throw Error("The time map stands still at an end; a trim leaves it as it is.");
        TimeKey key = at;
        key.output = at.output + (position - at.position) / step;
        key.position = position;
        return key;
    };
    TimeKeys out = keys;
    // Longer first, so that both cuts lie inside.
    if (out.front().position > first) {
        TimeKey key = extended(out.front(), stepOf(out, 0), first);
        key.after = Segment::constant;
        key.speed.reset();
        if (out.front().after == Segment::constant && !out.front().speed)
            out.front() = key;
        else
            out.insert(out.begin(), key);
    }
    if (out.back().position < end) {
        const TimeKey key = extended(out.back(), stepOf(out, out.size() - 2), end);
        if (out[out.size() - 2].after == Segment::constant && !out.back().speed)
            out.back() = key;
        else
            out.push_back(key);
    }
    moveLater(out, 0, Rational(0) - out.front().output);
    const auto cutAt = [&](const Rational& position, bool before) {
        std::size_t i = 0;
        while (i + 2 < out.size() && out[i + 1].position <= position)
            ++i;
        if (out[i].position != position && out[i + 1].position != position) {
            const Rational place = out[i].after == Segment::constant
                                       ? out[i].output + (position - out[i].position) / stepOf(out, i)
                                       : fine(*TimeMap(out).outputAt(position.toDouble()));
            out = withKeyAt(out, place);
            out[i + 1].position = position;
        }
        const auto at =
            std::find_if(out.begin(), out.end(), [&](const TimeKey& k) { return k.position >= position; });
        if (before)
            out.erase(out.begin(), at);
        else
            out.erase(at + 1, out.end());
    };
    cutAt(end, false);
    cutAt(first, true);
    moveLater(out, 0, Rational(0) - out.front().output);
    return checked(std::move(out));
}

TimeKeys shifted(TimeKeys keys, const Rational& frames) {
    for (TimeKey& key : keys)
        key.position = key.position + frames;
    return checked(std::move(keys));
}

} // namespace yarngap
