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
    return before;
}

SettingsInForce Shot::settingsInForce() const {
    SettingsInForce settings(GapSettings{method, inBetweens});
    for (const MethodStretch& stretch : methodStretches)
        settings.put(stretch.first, stretch.last, {stretch.method, inBetweens});
    return settings;
}

void Shot::carryOver(const SourceAxis& before, const SourceAxis& after) {
    const auto carried = [&](std::int64_t frame) { return before.carriedFrame(frame, after); };
    const std::int64_t last = after.frames() - 1;
    if (from) from = std::min(carried(*from), last);
    if (to) to = std::max(from.value_or(0), carried(*to + 1) - 1); // the end of the last frame
    for (MethodStretch& stretch : methodStretches) {
        stretch.last = carried(stretch.last + 1) - 1;
        stretch.first = carried(stretch.first);
    }
    std::erase_if(methodStretches, [](const MethodStretch& s) { return s.last < s.first; });
    std::vector<MatteKey> outlines;
    outlines.reserve(matte.keys.size());
    for (MatteKey& key : matte.keys) {
        const std::int64_t at = std::min(carried(key.frame), last);
        if (outlines.empty() || outlines.back().frame < at) outlines.push_back({at, std::move(key.points)});
    }
    matte.keys = std::move(outlines);
    const Rational pace = after.framesPerSecond() / before.framesPerSecond();
    for (TimeKey& key : keys) {
        key.position = before.carried(key.position, after);
        // Without a rate of its own the result follows the source's, and its frames are as many times more.
        if (!outputRate)
            key.output = key.output * pace;
        else if (key.speed)
            key.speed = *key.speed * pace;
    }
    interpretation = after.interpretation();
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
