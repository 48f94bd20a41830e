#include "core/time/key_edits.h"

#include "core/error.h"
#include "core/time/key_steps.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// Speed at `key`, an end of eased segment `segment`.
Rational endSpeed(const TimeKeys& keys, std::size_t key, std::size_t segment) {
    if (keys[key].speed) return *keys[key].speed;
    const bool begins = key == segment;
    if (begins ? key == 0 : key + 1 == keys.size()) return stepOf(keys, segment);
    const std::size_t other = begins ? segment - 1 : segment + 1;
    if (keys[other].after != Segment::eased) return stepOf(keys, other);
    return fine(TimeMap(keys).speedAt(keys[key].output.toDouble()));
}

/// Makes segment `i` last `length`; later keys move along.
void setLength(TimeKeys& keys, std::size_t i, const Rational& length) {
    moveLater(keys, i + 1, length - (keys[i + 1].output - keys[i].output));
}

/// The keys with one at `output`, and its index.
std::pair<TimeKeys, std::size_t> keyed(const TimeKeys& keys, const Rational& output) {
    const auto at =
        std::find_if(keys.begin(), keys.end(), [&](const TimeKey& k) { return k.output >= output; });
    if (at == keys.end()) throw Error("That lies after the last output frame.");
    const auto i = static_cast<std::size_t>(at - keys.begin());
    return {at->output == output ? keys : withKeyAt(keys, output), i};
}

/// Output place at which the map first shows `position`.
Rational placeOf(const TimeKeys& keys, const Rational& position) {
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        if (keys[i].position == position) return keys[i].output;
        const auto [low, high] = std::minmax(keys[i].position, keys[i + 1].position);
        if (low > position || high <= position) continue;
        if (keys[i].after == Segment::constant)
            return keys[i].output + (position - keys[i].position) / stepOf(keys, i);
        break;
    }
    if (position == keys.back().position) return keys.back().output;
    const auto found = TimeMap(keys).outputAt(position.toDouble());
    if (!found) throw Error("The map does not come to that source frame.");
    return fine(*found);
}

void refuseTurns(const TimeKeys& keys, std::size_t first, std::size_t last) {
    for (std::size_t i = first; i < last; ++i)
        if (keys[i + 1].position <= keys[i].position)
            throw Error(
                "The speed map stands still or turns around there. Choose a stretch that runs forwards.");
}

} // namespace

TimeKeys withMoments(const TimeKeys& keys, std::span<const Rational> positions, Keeping keeping) {
    if (positions.size() != keys.size()) throw Error("Each key needs a source moment.");
    if (positions.front() != keys.front().position || positions.back() != keys.back().position)
        throw Error("The first and the last key stay where the shot is trimmed.");
    TimeKeys out = keys;
    for (std::size_t k = 0; k < keys.size(); ++k)
        out[k].position = positions[k];
    // Front to back, since setting a length moves what comes later.
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        const Rational before = keys[i + 1].position - keys[i].position;
        const Rational now = out[i + 1].position - out[i].position;
        if (now == before) continue;
        if (keys[i].after == Segment::hold) throw Error("Both keys of a freeze move together.");
        if (now == Rational(0) || (before < Rational(0)) != (now < Rational(0)))
            throw Error("A key cannot pass another one.");
        if (keeping == Keeping::length) continue;
        const Rational length = keys[i + 1].output - keys[i].output;
        if (keys[i].after == Segment::eased) {
            const Rational mean = (endSpeed(keys, i, i) + endSpeed(keys, i + 1, i)) / Rational(2);
            const Rational wanted =
                mean != Rational(0) && now / mean > Rational(0) ? now / mean : length * (now / before);
            setLength(out, i, landedLength(out[i].output, wanted));
        } else {
            setLength(out, i, length * (now / before));
        }
    }
    return checked(std::move(out));
}

namespace {

/// Source moments of the keys where `move` gives those of `which` new ones; the keys of a freeze go together.
template <typename Move>
std::vector<Rational> movedMoments(const TimeKeys& keys, std::span<const std::size_t> which,
                                   const Move& move) {
    std::vector<Rational> positions;
    positions.reserve(keys.size());
    for (const TimeKey& key : keys)
        positions.push_back(key.position);
    for (const std::size_t k : which) {
        if (k >= keys.size()) throw Error("There is no such key.");
        const Rational moved = move(keys[k].position);
        std::size_t first = k;
        while (first > 0 && keys[first - 1].after == Segment::hold)
            --first;
        for (positions[first] = moved; keys[first].after == Segment::hold && first + 1 < keys.size();)
            positions[++first] = moved;
    }
    return positions;
}

} // namespace

TimeKeys withMomentsMoved(const TimeKeys& keys, std::span<const std::size_t> which, const Rational& by,
                          Keeping keeping) {
    return withMoments(keys, movedMoments(keys, which, [&](const Rational& p) { return p + by; }), keeping);
}

TimeKeys withMomentsScaled(const TimeKeys& keys, std::span<const std::size_t> which, std::size_t fixed,
                           const Rational& factor, Keeping keeping) {
    if (fixed >= keys.size()) throw Error("There is no such key.");
    if (factor <= Rational(0)) throw Error("Keys keep their order: they are scaled by more than 0.");
    const Rational about = keys[fixed].position;
    return withMoments(
        keys, movedMoments(keys, which, [&](const Rational& p) { return about + (p - about) * factor; }),
        keeping);
}

TimeKeys withKeyAtMoment(const TimeKeys& keys, const Rational& position) {
    const Rational place = placeOf(keys, position);
    TimeKeys out = withKeyAt(keys, place);
    const auto at =
        std::find_if(out.begin(), out.end(), [&](const TimeKey& key) { return key.output == place; });
    at->position = position;
    return checked(std::move(out));
}

TimeKeys withEase(const TimeKeys& keys, std::size_t i, const Rational& in, const Rational& out) {
    if (i == 0 || i + 1 >= keys.size() || keys[i - 1].after != Segment::constant ||
        keys[i].after != Segment::constant)
        throw Error("An ease goes where one constant speed meets another.");
    if (in < Rational(0) || out < Rational(0) || in + out == Rational(0))
        throw Error("An ease needs a length above 0 output frames.");
    const Rational begin = keys[i].output - in;
    const Rational end = keys[i].output + out;
    if (begin < keys[i - 1].output || end > keys[i + 1].output)
        throw Error("There is no room for that ease; the neighbouring keys are nearer.");
    const Rational left = stepOf(keys, i - 1);
    const Rational right = stepOf(keys, i);
    TimeKeys result(keys.begin(), keys.begin() + static_cast<std::ptrdiff_t>(i));
    if (begin == result.back().output) {
        result.back().after = Segment::eased;
        result.back().speed = left; // there is no constant segment left to take it from
    } else {
        result.push_back({begin, keys[i].position - in * left, Segment::eased, std::nullopt});
    }
    if (end < keys[i + 1].output)
        result.push_back({end, keys[i].position + out * right, Segment::constant, std::nullopt});
    const std::size_t rest = result.size();
    result.insert(result.end(), keys.begin() + static_cast<std::ptrdiff_t>(i) + 1, keys.end());
    if (end == keys[i + 1].output) result[rest].speed = right;
    return checked(std::move(result));
}

TimeKeys withKeySpeed(const TimeKeys& keys, std::size_t i, const Rational& speed) {
    if (i >= keys.size()) throw Error("There is no such key.");
    const bool before = i > 0 && keys[i - 1].after == Segment::eased;
    const bool after = i + 1 < keys.size() && keys[i].after == Segment::eased;
    if (!before && !after) throw Error("The speed at that key is that of the stretch beside it.");
    TimeKeys out = keys;
    out[i].speed = speed;
    return checked(std::move(out));
}

TimeKeys withKeyLanded(const TimeKeys& keys, std::size_t i) {
    if (i >= keys.size()) throw Error("There is no such key.");
    TimeKeys out = keys;
    if (i > 0) out[i].output = out[i].output.round();
    if (i > 0 && i + 1 < keys.size()) {
        const Rational position = out[i].position.round();
        out[i].position = position;
        for (std::size_t k = i; k > 0 && keys[k - 1].after == Segment::hold; --k)
            out[k - 1].position = position;
        for (std::size_t k = i; k + 1 < keys.size() && keys[k].after == Segment::hold; ++k)
            out[k + 1].position = position;
    }
    return checked(std::move(out));
}

TimeKeys withSpeedBetween(const TimeKeys& keys, const Rational& from, const Rational& to,
                          const Rational& step, const std::optional<Rational>& anchor) {
    if (to <= from) throw Error("A stretch needs at least a part of an output frame.");
    auto [begun, first] = keyed(keys, std::max(from, Rational(0)));
    auto [out, last] = keyed(begun, std::min(to, keys.back().output));
    // Both ends stay where they are on the source; between them it must not have turned.
    refuseTurns(out, first, last);
    out.erase(out.begin() + static_cast<std::ptrdiff_t>(first) + 1,
              out.begin() + static_cast<std::ptrdiff_t>(last));
    out[first].after = Segment::constant;
    for (const std::size_t k : {first, first + 1}) // the stretch says now how fast it is there
        out[k].speed.reset();
    return anchor ? withSegmentSpeedAbout(out, first, step, *anchor) : withSegmentSpeed(out, first, step);
}

TimeKeys withRewind(const TimeKeys& keys, const Rational& from, const Rational& to) {
    if (to <= from) throw Error("A stretch needs at least a part of an output frame.");
    auto [begun, first] = keyed(keys, std::max(from, Rational(0)));
    auto [out, last] = keyed(begun, std::min(to, keys.back().output));
    const TimeKeys there(out.begin() + static_cast<std::ptrdiff_t>(first),
                         out.begin() + static_cast<std::ptrdiff_t>(last) + 1);
    const Rational length = there.back().output - there.front().output;
    TimeKeys result(out.begin(), out.begin() + static_cast<std::ptrdiff_t>(last));
    for (std::size_t k = there.size() - 1; k > 0; --k) { // back
        const TimeKey& key = there[k];
        std::optional<Rational> speed;
        if (key.speed && k + 1 < there.size()) speed = Rational(0) - *key.speed;
        result.push_back({there.back().output + (there.back().output - key.output), key.position,
                          there[k - 1].after, speed});
    }
    for (const TimeKey& key : there) { // and again
        result.push_back(key);
        result.back().output = key.output + length + length;
    }
    for (std::size_t k = last + 1; k < out.size(); ++k) {
        result.push_back(out[k]);
        result.back().output = out[k].output + length + length;
    }
    return checked(std::move(result));
}

namespace {

/// Length of an eased segment over `way` between two speeds, ending on a whole frame where it can.
Rational easedLength(const Rational& begin, const Rational& way, const Rational& from, const Rational& to) {
    const Rational mean = (from + to) / Rational(2);
    if (mean == Rational(0) || way / mean <= Rational(0))
        throw Error("The shots on both sides of the cut run in opposite directions, or one stands still.");
    return landedLength(begin, way / mean);
}

} // namespace

TimeKeys withBeginSpeed(const TimeKeys& keys, const Rational& step, const Rational& ease) {
    if (keys.front().after != Segment::constant)
        throw Error("The shot begins with a change of speed already; take its first key out, or move it.");
    const Rational length = std::min(ease, keys[1].output);
    TimeKeys out = length < keys[1].output ? withKeyAt(keys, length) : keys;
    const Rational own = stepOf(keys, 0);
    out.front().after = Segment::eased;
    out.front().speed = step;
    if (!out[1].speed) out[1].speed = own;
    setLength(out, 0, easedLength(0, out[1].position - out[0].position, step, own));
    return checked(std::move(out));
}

TimeKeys withEndSpeed(const TimeKeys& keys, const Rational& step, const Rational& ease) {
    const std::size_t last = keys.size() - 2;
    if (keys[last].after != Segment::constant)
        throw Error("The shot ends with a change of speed already; take its last key out, or move it.");
    const Rational end = keys.back().output;
    const Rational length = std::min(ease, end - keys[last].output);
    TimeKeys out = length < end - keys[last].output ? withKeyAt(keys, end - length) : keys;
    const Rational own = stepOf(keys, last);
    const std::size_t i = out.size() - 2;
    out[i].after = Segment::eased;
    if (!out[i].speed) out[i].speed = own;
    out.back().speed = step;
    setLength(out, i, easedLength(out[i].output, out[i + 1].position - out[i].position, own, step));
    return checked(std::move(out));
}

TimeKeys excerpt(const TimeKeys& keys, const Rational& from, const Rational& to) {
    if (to <= from) throw Error("A stretch needs at least a part of an output frame.");
    auto [begun, first] = keyed(keys, std::max(from, Rational(0)));
    auto [out, last] = keyed(begun, std::min(to, keys.back().output));
    // Eased segments at its ends keep the speeds that their neighbours gave them.
    if (out[first].after == Segment::eased) out[first].speed = endSpeed(out, first, first);
    if (last > 0 && out[last - 1].after == Segment::eased) out[last].speed = endSpeed(out, last, last - 1);
    TimeKeys part(out.begin() + static_cast<std::ptrdiff_t>(first),
                  out.begin() + static_cast<std::ptrdiff_t>(last) + 1);
    const Rational begin = part.front().output;
    for (TimeKey& key : part)
        key.output = key.output - begin;
    return checked(std::move(part));
}

TimeKeys withExcerpt(const TimeKeys& keys, const TimeKeys& pasted, const Rational& at) {
    validateKeys(pasted);
    const Rational end = at + pasted.back().position - pasted.front().position;
    if (end <= at) throw Error("Only a stretch that goes forwards can be pasted.");
    if (at < keys.front().position || end > keys.back().position)
        throw Error("There is no room for what was copied; it shows " + std::to_string((end - at).round()) +
                    " source frames.");
    refuseTurns(keys, 0, keys.size() - 1);
    auto [begun, first] = keyed(keys, placeOf(keys, at));
    begun[first].position = at;
    auto [out, last] = keyed(begun, placeOf(begun, end));
    out[last].position = end;
    const Rational begin = out[first].output;
    const Rational by = begin + pasted.back().output - out[last].output;
    const Rational along = at - pasted.front().position;
    TimeKeys result(out.begin(), out.begin() + static_cast<std::ptrdiff_t>(first));
    for (const TimeKey& key : pasted)
        result.push_back({begin + key.output, key.position + along, key.after, key.speed});
    result.back().after = out[last].after;
    if (!result.back().speed) result.back().speed = out[last].speed;
    for (std::size_t k = last + 1; k < out.size(); ++k) {
        result.push_back(out[k]);
        result.back().output = out[k].output + by;
    }
    return checked(std::move(result));
}

} // namespace yarngap
