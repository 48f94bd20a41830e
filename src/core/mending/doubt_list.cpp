#include "core/mending/doubt_list.h"

#include "core/mending/known_doubts.h"

#include <algorithm>
#include <map>
#include <utility>

namespace yarngap {

std::vector<std::int64_t> outputsToDoubt(const FramePlan& plan) {
    std::map<std::pair<std::int64_t, std::int64_t>, std::int64_t> nearest;
    const Rational middle(1, 2);
    const auto offMiddle = [&](std::int64_t n) {
        const Rational away = phaseOf(plan.rows[static_cast<std::size_t>(n)]) - middle;
        return away < Rational(0) ? Rational(0) - away : away;
    };
    for (const PlanRow& row : plan.rows) {
        if (row.kind != FrameKind::flow || row.open > Rational(0) || row.subject) continue;
        const auto [at, isNew] = nearest.try_emplace({row.first, row.last}, row.output);
        if (!isNew && offMiddle(row.output) < offMiddle(at->second)) at->second = row.output;
    }
    std::vector<std::int64_t> outputs;
    outputs.reserve(nearest.size());
    for (const auto& [gap, output] : nearest)
        outputs.push_back(output);
    return outputs;
}

std::optional<DoubtfulGap> doubtAt(const PlannedFrames& frames, std::int64_t output, DoubtMemory* memory,
                                   const std::stop_token& stop) {
    const PlanRow& row = frames.row(output);
    const std::string key = memory ? frames.key(output) : std::string();
    std::optional<DoubtfulGap> gap = memory ? memory->find(key) : std::nullopt;
    if (!gap) {
        const auto look = frames.maker().look(row, stop);
        if (!look) return std::nullopt;
        gap = doubtIn(*look, frames.facts().width, frames.facts().height);
        if (memory) memory->insert(key, *gap);
    }
    gap->first = row.first;
    gap->last = row.last;
    gap->output = output;
    return gap;
}

std::vector<DoubtfulGap> doubtfulGaps(const PlannedFrames& frames, const Progress& progress,
                                      const std::stop_token& stop, DoubtMemory* memory) {
    std::vector<DoubtfulGap> gaps;
    const std::vector<std::int64_t> outputs = outputsToDoubt(frames.plan());
    for (const std::int64_t output : outputs) {
        throwIfStopped(stop);
        if (auto gap = doubtAt(frames, output, memory, stop)) gaps.push_back(*std::move(gap));
        if (progress) progress(static_cast<double>(gaps.size()) / static_cast<double>(outputs.size()));
    }
    std::ranges::stable_sort(gaps,
                             [](const DoubtfulGap& a, const DoubtfulGap& b) { return a.doubt > b.doubt; });
    return gaps;
}

} // namespace yarngap
