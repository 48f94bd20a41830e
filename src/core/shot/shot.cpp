#include "core/shot/shot.h"

#include "core/shot/source_axis.h"

#include <algorithm>
#include <utility>

namespace yarngap {

Timing Shot::timing(const Rate& sourceRate, std::int64_t mediaFrames) const {
    const std::int64_t last = std::max<std::int64_t>(0, mediaFrames - 1);
    Timing timing;
    timing.sourceRate = sourceRate;
    timing.outputRate = outputRate.value_or(sourceRate);
    timing.to = std::min(to.value_or(last), last);
    timing.from = std::clamp<std::int64_t>(from.value_or(0), 0, timing.to);
    timing.speed = speed;
    timing.keys = keys;
    return timing;
}

Shot Shot::beforeMends() const {
    Shot before = *this;
    before.methodStretches.clear();
    before.matte = {};
    before.mending.mends.clear();
    return before;
}

SettingsInForce Shot::settingsInForce() const {
    SettingsInForce settings(GapSettings{.method = method, .inBetweens = inBetweens});
    for (const MethodStretch& stretch : methodStretches)
        settings.put(stretch.first, stretch.last, {.method = stretch.method, .inBetweens = inBetweens});
    putMends(settings, mending.mends);
    return settings;
}

namespace {

/// The least whole number that is not below `value`.
std::int64_t ceiling(const Rational& value) {
    return -(Rational(0) - value).floor();
}

/// Keys whose positions were carried, with speeds of their own as before: outputs follow them.
void keepSpeeds(std::vector<TimeKey>& keys, const std::vector<TimeKey>& before) {
    for (std::size_t i = 1; i < keys.size(); ++i) {
        const Rational was = before[i].position - before[i - 1].position;
        const Rational is = keys[i].position - keys[i - 1].position;
        const Rational lasted = before[i].output - before[i - 1].output;
        keys[i].output = keys[i - 1].output + (was == Rational(0) ? lasted : lasted * is / was);
    }
    // What lay between two keys may be gone as a whole.
    for (std::size_t i = 1; i < keys.size();)
        if (keys[i].output == keys[i - 1].output)
            keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(i));
        else
            ++i;
    if (keys.size() == 1) keys.clear(); // nothing is left that it ran through
}

/// Keys whose positions were carried, at the same outputs: speeds of their own follow them. What lay between
/// two keys may be gone as a whole; then the picture stands.
void keepOutputs(std::vector<TimeKey>& keys, const std::vector<TimeKey>& before) {
    for (std::size_t i = 0; i < keys.size(); ++i) {
        if (i > 0 && keys[i].position == keys[i - 1].position) keys[i - 1].after = Segment::hold;
        if (!keys[i].speed) continue;
        const std::size_t first = i == 0 ? 0 : i - 1;
        const std::size_t last = std::min(keys.size() - 1, i + 1);
        const Rational was = before[last].position - before[first].position;
        const Rational is = keys[last].position - keys[first].position;
        if (was != Rational(0) && is != Rational(0)) keys[i].speed = *keys[i].speed * is / was;
    }
}

} // namespace

void Shot::carryOver(const SourceAxis& before, const SourceAxis& after, bool keepLength) {
    const std::vector<TimeKey> keysBefore = keys;
    const Timing timed = timing(before.facts().rate, before.frames());
    carryFrames(before, after);
    const bool onlyCleaned = before.interpretation() == after.interpretation();
    const Timing trimmed = timing(after.facts().rate, after.frames());
    for (TimeKey& key : keys) {
        const Rational was = key.position;
        key.position = before.carried(was, after);
        // The ends of a map are those of the trim, and what lies between them stays there.
        if (was == Rational(timed.from))
            key.position = Rational(trimmed.from);
        else if (was == Rational(timed.to + 1))
            key.position = Rational(trimmed.to + 1);
        else if (onlyCleaned && was > Rational(timed.from) && was < Rational(timed.to + 1))
            key.position = std::clamp(key.position, Rational(trimmed.from), Rational(trimmed.to + 1));
    }
    if (onlyCleaned) {
        if (keepLength)
            keepOutputs(keys, keysBefore);
        else
            keepSpeeds(keys, keysBefore);
        if (keepLength && keys.empty())
            speed = speed * Rational(trimmed.sourceFrames()) / Rational(timed.sourceFrames());
    } else {
        // Without a rate of its own the result follows the source's, and its frames are as many times more.
        const Rational pace = after.framesPerSecond() / before.framesPerSecond();
        for (TimeKey& key : keys)
            if (!outputRate)
                key.output = key.output * pace;
            else if (key.speed)
                key.speed = *key.speed * pace;
    }
    interpretation = after.interpretation();
    cleanup = after.cleanup();
}

namespace {

/// Outlines stay on the pictures on which they were drawn.
void carryKeys(Patch& patch, const SourceAxis& before, const SourceAxis& after) {
    std::vector<PatchKey> keys;
    for (PatchKey& key : patch.keys) {
        key.at = before.carried(key.at, after);
        if (keys.empty() || keys.back().at < key.at) keys.push_back(std::move(key));
    }
    patch.keys = std::move(keys);
}

/// Whether both frames of a guide are still there; then it lies between them.
bool carryGuide(Guide& guide, const SourceAxis& before, const SourceAxis& after) {
    const auto carry = [&](std::int64_t& frame) {
        const Rational at = before.carried(Rational(frame), after);
        frame = at.floor();
        return at == Rational(frame) && frame >= 0 && frame < after.frames();
    };
    return carry(guide.first) && carry(guide.last) && guide.first < guide.last;
}

/// Keys stay where they lie; of two that meet the first stays.
template <typename Key>
void carryPlaces(std::vector<Key>& keys, const SourceAxis& before, const SourceAxis& after) {
    std::vector<Key> out;
    for (Key& key : keys) {
        key.at = before.carried(key.at, after);
        if (out.empty() || out.back().at < key.at) out.push_back(std::move(key));
    }
    keys = std::move(out);
}

/// What was measured goes with its frames; that of frames that are gone is gone.
template <typename Point>
void carryPath(std::vector<Point>& path, const SourceAxis& before, const SourceAxis& after) {
    std::vector<Point> out;
    bool begins = false;
    for (Point& point : path) {
        if constexpr (requires { point.begins; }) begins |= point.begins;
        const Rational at = before.carried(Rational(point.frame), after);
        if (at != Rational(at.floor()) || at.floor() < 0 || at.floor() >= after.frames()) continue;
        point.frame = at.floor();
        if (!out.empty() && point.frame <= out.back().frame) continue;
        if constexpr (requires { point.begins; }) point.begins = begins;
        begins = false;
        out.push_back(std::move(point));
    }
    path = std::move(out);
}

void carryFinish(Finish& finish, const SourceAxis& before, const SourceAxis& after) {
    const auto carry = [&](Rational& at) { at = before.carried(at, after); };
    carryPlaces(finish.places, before, after);
    carryPlaces(finish.tones, before, after);
    if (finish.hideEdges.from) carry(*finish.hideEdges.from);
    if (finish.hideEdges.to) carry(*finish.hideEdges.to);
    for (Smear& smear : finish.smears) {
        carry(smear.from);
        carry(smear.to);
    }
    finish.hold.frame = std::min(before.carriedFrame(finish.hold.frame, after), after.frames() - 1);
    carryPath(finish.hold.path, before, after);
    carryPath(finish.hold.second, before, after);
    carryPath(finish.calm.path, before, after);
}

} // namespace

void Shot::carryFrames(const SourceAxis& before, const SourceAxis& after) {
    const auto carried = [&](std::int64_t frame) { return before.carried(Rational(frame), after); };
    const std::int64_t last = after.frames() - 1;
    const bool onlyCleaned = before.interpretation() == after.interpretation();
    const auto kept = [&](std::int64_t frame) { return std::clamp<std::int64_t>(frame, 0, last); };
    if (from) from = kept(onlyCleaned ? ceiling(carried(*from)) : before.carriedFrame(*from, after));
    if (to)
        to = std::max(from.value_or(0),
                      kept(onlyCleaned ? carried(*to).floor() : before.carriedFrame(*to + 1, after) - 1));
    const auto carryGaps = [&](std::int64_t& first, std::int64_t& end) {
        end = onlyCleaned ? ceiling(carried(end + 1)) - 1 : before.carriedFrame(end + 1, after) - 1;
        first = onlyCleaned ? carried(first).floor() : before.carriedFrame(first, after);
    };
    for (MethodStretch& stretch : methodStretches)
        carryGaps(stretch.first, stretch.last);
    for (Mend& mend : mending.mends) {
        carryGaps(mend.gaps.first, mend.gaps.last);
        if (mend.patch) carryKeys(*mend.patch, before, after);
        if (mend.changes.guide && !carryGuide(*mend.changes.guide, before, after))
            mend.gaps.last = mend.gaps.first - 1; // it tells of frames that are gone
    }
    std::erase_if(mending.mends, [](const Mend& m) { return m.gaps.last < m.gaps.first; });
    std::vector<std::int64_t> accepted;
    for (const std::int64_t gap : mending.accepted) {
        std::int64_t first = gap;
        std::int64_t end = gap;
        carryGaps(first, end);
        // What was put in or taken out there has made another gap of it.
        if (first == end && (accepted.empty() || accepted.back() < first)) accepted.push_back(first);
    }
    mending.accepted = std::move(accepted);
    for (std::size_t i = 1; i < methodStretches.size(); ++i) // widened ones may meet
        methodStretches[i].first = std::max(methodStretches[i].first, methodStretches[i - 1].last + 1);
    std::erase_if(methodStretches, [](const MethodStretch& s) { return s.last < s.first; });
    std::vector<MatteKey> outlines;
    outlines.reserve(matte.keys.size());
    for (MatteKey& key : matte.keys) {
        const std::int64_t at = std::min(before.carriedFrame(key.frame, after), last);
        if (outlines.empty() || outlines.back().frame < at) outlines.push_back({at, std::move(key.points)});
    }
    matte.keys = std::move(outlines);
    carryFinish(finish, before, after);
}

void Shot::setTiming(const Timing& timing, std::int64_t mediaFrames) {
    from = timing.from == 0 ? std::nullopt : std::optional(timing.from);
    to = timing.to == mediaFrames - 1 ? std::nullopt : std::optional(timing.to);
    speed = timing.speed;
    keys = timing.keys;
    outputRate = timing.outputRate == timing.sourceRate ? std::nullopt : std::optional(timing.outputRate);
}

Shot shotOf(const std::filesystem::path& media) {
    Shot shot;
    std::error_code ec;
    const auto absolute = std::filesystem::absolute(media, ec);
    shot.media = ec ? media : absolute.lexically_normal();
    shot.name = media.stem().string();
    return shot;
}

} // namespace yarngap
