#include "core/inspection/carried_findings.h"

#include <algorithm>

namespace yarngap {

namespace {

/// Fields of the file in the order of time: 2n and 2n + 1 are those of coded frame n.
struct Fields {
    std::int64_t first = 0, last = 0;
};

Fields fieldsOf(const FrameRecipe& recipe, bool topFirst) {
    switch (recipe.kind) {
    case FrameRecipe::Kind::coded:
        return {2 * recipe.top, 2 * recipe.top + 1};
    case FrameRecipe::Kind::field:
        return {2 * recipe.top + (recipe.second ? 1 : 0), 2 * recipe.top + (recipe.second ? 1 : 0)};
    case FrameRecipe::Kind::woven:
        break;
    }
    const std::int64_t top = 2 * recipe.top + (topFirst ? 0 : 1);
    const std::int64_t bottom = 2 * recipe.bottom + (topFirst ? 1 : 0);
    return {std::min(top, bottom), std::max(top, bottom)};
}

std::vector<std::int64_t> carriedCuts(const std::vector<std::int64_t>& cutFields,
                                      const std::vector<Fields>& shown) {
    std::vector<std::int64_t> gaps;
    const auto add = [&](auto firstFrame) {
        const std::int64_t gap = firstFrame - shown.begin() - 1;
        if (gap >= 0 && firstFrame != shown.end()) gaps.push_back(gap);
    };
    for (const std::int64_t cut : cutFields) {
        add(std::partition_point(shown.begin(), shown.end(), [&](const Fields& f) { return f.last < cut; }));
        add(std::partition_point(shown.begin(), shown.end(), [&](const Fields& f) { return f.first < cut; }));
    }
    std::sort(gaps.begin(), gaps.end());
    gaps.erase(std::unique(gaps.begin(), gaps.end()), gaps.end());
    return gaps;
}

std::vector<std::int64_t> carriedRepeats(const std::vector<std::int64_t>& repeats,
                                         const std::vector<FrameRecipe>& recipes) {
    // How many of the coded frames from `first` to `last` are repeats.
    const auto repeated = [&](std::int64_t first, std::int64_t last) {
        return std::upper_bound(repeats.begin(), repeats.end(), last) -
               std::lower_bound(repeats.begin(), repeats.end(), first);
    };
    std::vector<std::int64_t> carried;
    for (std::size_t n = 1; n < recipes.size(); ++n) {
        const FrameRecipe& before = recipes[n - 1];
        const FrameRecipe& now = recipes[n];
        const std::int64_t from = std::min(before.top, before.bottom) + 1;
        const std::int64_t to = std::max(now.top, now.bottom);
        const bool same = before == now;
        if (same || (to >= from && repeated(from, to) == to - from + 1))
            carried.push_back(static_cast<std::int64_t>(n));
    }
    return carried;
}

Shake turned(const Shake& s, int degrees) {
    switch (degrees) {
    case 90:
        return {s.gap, -s.firstY, s.firstX, -s.lastY, s.lastX, s.told};
    case 180:
        return {s.gap, -s.firstX, -s.firstY, -s.lastX, -s.lastY, s.told};
    case 270:
        return {s.gap, s.firstY, -s.firstX, s.lastY, -s.lastX, s.told};
    default:
        return s;
    }
}

std::vector<Shake> carriedShakes(const std::vector<Shake>& shakes, const std::vector<FrameRecipe>& recipes,
                                 int rotation) {
    std::vector<Shake> carried;
    auto shake = shakes.begin();
    for (std::size_t n = 0; n + 1 < recipes.size(); ++n) {
        const FrameRecipe& now = recipes[n];
        const FrameRecipe& next = recipes[n + 1];
        const auto isCoded = [](const FrameRecipe& r) { return r.kind == FrameRecipe::Kind::coded; };
        if (!isCoded(now) || !isCoded(next) || next.top != now.top + 1) continue;
        while (shake != shakes.end() && shake->gap < now.top)
            ++shake;
        if (shake == shakes.end()) break;
        if (shake->gap != now.top) continue;
        carried.push_back(turned(*shake, rotation));
        carried.back().gap = static_cast<std::int64_t>(n);
    }
    return carried;
}

} // namespace

GapFindings carriedFindings(const ShotFindings& findings, const std::vector<FrameRecipe>& recipes,
                            const Interpretation& interpretation) {
    const bool topFirst = interpretation.topFirst.value_or(findings.topFirst());
    std::vector<Fields> shown;
    shown.reserve(recipes.size());
    for (const FrameRecipe& recipe : recipes)
        shown.push_back(fieldsOf(recipe, topFirst));
    return {carriedCuts(findings.cutFields, shown), carriedRepeats(findings.repeats.frames, recipes),
            carriedShakes(findings.camera.gaps, recipes, interpretation.rotation)};
}

} // namespace yarngap
