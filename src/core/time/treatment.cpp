#include "core/time/treatment.h"

#include <algorithm>

namespace yarngap {

bool Treatment::isCut(std::int64_t gap) const {
    return std::binary_search(found.cuts.begin(), found.cuts.end(), gap);
}

bool Treatment::isRepeat(std::int64_t frame) const {
    return std::binary_search(found.repeats.begin(), found.repeats.end(), frame);
}

bool Treatment::isPassedOver(std::int64_t frame, Part part) const {
    const auto& ofPart = part == Part::subject ? found.subjectPassedOver : found.backgroundPassedOver;
    return std::binary_search(found.passedOver.begin(), found.passedOver.end(), frame) ||
           std::binary_search(ofPart.begin(), ofPart.end(), frame);
}

std::optional<Shake> Treatment::shakeOf(std::int64_t gap) const {
    const auto at = std::lower_bound(found.shakes.begin(), found.shakes.end(), gap,
                                     [](const Shake& shake, std::int64_t g) { return shake.gap < g; });
    return at != found.shakes.end() && at->gap == gap ? std::optional(*at) : std::nullopt;
}

std::pair<std::int64_t, std::int64_t> Treatment::keptAround(std::int64_t gap, std::int64_t last,
                                                            bool bridgeRepeats, Part part) const {
    std::int64_t before = gap;
    std::int64_t after = gap + 1;
    int held = 1; // how often the picture is found to be shown
    const auto isSkipped = [&](std::int64_t frame) {
        if (isPassedOver(frame, part)) return true;
        if (!bridgeRepeats || !isRepeat(frame)) return false;
        ++held;
        return true;
    };
    while (held <= longestHold && isSkipped(before))
        --before;
    while (held <= longestHold && isSkipped(after))
        ++after;
    const auto cut = std::lower_bound(found.cuts.begin(), found.cuts.end(), before);
    const bool crossesCut = cut != found.cuts.end() && *cut < after;
    if (held > longestHold || before < 0 || after > last || crossesCut) return {gap, gap + 1};
    return {before, after};
}

} // namespace yarngap
