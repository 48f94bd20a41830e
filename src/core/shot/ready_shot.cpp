#include "core/shot/ready_shot.h"

#include "core/media/interpreted_source.h"

#include <algorithm>
#include <utility>
#include <vector>

namespace yarngap {

Footage footageOf(const std::shared_ptr<const MediaIndex>& index, const Interpretation& interpretation,
                  std::size_t cacheBytes, const Cleanup& cleanup, const CleaningMeans& means) {
    validate(interpretation, *index);
    return footageOf(index, std::make_shared<const SourceAxis>(*index, interpretation, cleanup),
                     std::make_shared<FrameSource>(index, cacheBytes), cacheBytes, means);
}

Footage footageOf(const std::shared_ptr<const MediaIndex>& index, std::shared_ptr<const SourceAxis> axis,
                  const std::shared_ptr<FrameSource>& coded, std::size_t madeBytes,
                  const CleaningMeans& means) {
    auto frames = interpreted(coded, index, axis->interpretation(), madeBytes);
    auto cleaned = frames;
    if (!axis->cleanup().empty())
        cleaned = std::make_shared<CleanedSource>(frames, axis->cleanup(), axis->origins(), means, madeBytes);
    return {index, std::move(axis), std::move(cleaned), std::move(frames)};
}

FramePlan planOf(const Shot& shot, const SourceAxis& axis, const Timing& timing, const GapFindings& found) {
    Treatment treatment(shot.settingsInForce(), found);
    if (shot.matte.empty()) { // nothing tells the parts apart
        treatment.found.subjectPassedOver.clear();
        treatment.found.backgroundPassedOver.clear();
    }
    FramePlan plan = makePlan(timing, treatment, axis.frames());
    plan.marks = axis.marks();
    const std::vector<MendInForce> mends = mendsInForce(shot.mending.mends);
    for (PlanRow& row : plan.rows) {
        if (mends.empty() || row.position.phase == Rational(0) || row.atCut) continue;
        const auto at = std::ranges::lower_bound(mends, row.position.frame, {},
                                                 [](const MendInForce& m) { return m.gaps.last; });
        if (at != mends.end() && at->gaps.contains(row.position.frame)) row.mend = at->mend;
    }
    return plan;
}

ReadyShot readyShot(const Shot& shot, const Footage& footage, const GapFindings& found,
                    const Making& making) {
    const SourceAxis& axis = *footage.axis;
    Shot asMade = shot;
    if (making.isFinal) asMade.inBetweens = shot.inBetweens.forFinal();
    ReadyShot ready;
    ready.timing = making.timing ? *making.timing : shot.timing(axis.facts().rate, axis.frames());
    ready.plan = std::make_shared<FramePlan>(planOf(asMade, axis, ready.timing, found));
    FrameMaker maker(footage.frames, making.vectors, ready.plan->settings, shot.matte);
    maker.keepFinishedIn(making.finished);
    if (making.remakes) maker.shareRemakes(making.remakes);
    ready.frames = std::make_shared<PlannedFrames>(ready.plan, std::move(maker));
    return ready;
}

} // namespace yarngap
