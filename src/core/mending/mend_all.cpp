#include "core/mending/mend_all.h"

#include <utility>

namespace yarngap {

std::vector<TriedGap> tryCures(const PlannedFrames& frames, const CureJudge& judge,
                               const std::vector<DoubtfulGap>& gaps, double limit, const Mending& mending,
                               const Progress& progress, const std::stop_token& stop) {
    std::vector<TriedGap> tried;
    for (const DoubtfulGap& gap : gaps) {
        const std::int64_t own = frames.row(gap.output).position.frame;
        if (gap.doubt < limit || mending.isAccepted(own) || mending.at(own)) continue;
        const GapSettings& settings = frames.plan().settings.at(frames.row(gap.output).settings);
        TriedGap result{
            gap, judge.judged({gap.first, gap.last}, settings, usualCures(settings), {}, stop), {}};
        result.best = bestCure(result.cures);
        tried.push_back(std::move(result));
        if (progress)
            progress(static_cast<double>(&gap - gaps.data() + 1) / static_cast<double>(gaps.size()));
    }
    return tried;
}

Mending withBestCures(Mending mending, const std::vector<TriedGap>& tried) {
    for (const TriedGap& one : tried)
        if (one.best && mending.mends.size() < Mending::mostMends)
            mending = withMend(std::move(mending), {.gaps = {one.gap.first, one.gap.last - 1},
                                                    .name = one.best->name,
                                                    .changes = one.best->changes});
    return mending;
}

} // namespace yarngap
