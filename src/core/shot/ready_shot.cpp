#include "core/shot/ready_shot.h"

#include "core/media/interpreted_source.h"
#include "core/mending/patched_frames.h"

#include <algorithm>
#include <iterator>
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

namespace {

/// The patches of a shot that are on, in their order.
std::vector<Mend> patchesOf(const Shot& shot) {
    std::vector<Mend> out;
    std::ranges::copy_if(shot.mending.mends, std::back_inserter(out),
                         [](const Mend& mend) { return mend.isOn && mend.patch; });
    return out;
}

/// Those of `patches` that show the frame made otherwise, in layers of which none lie over each other: each
/// layer needs one plan.
std::vector<std::vector<std::size_t>> layersOfOthers(const std::vector<Mend>& patches) {
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < patches.size(); ++i)
        if (patches[i].patch->shows == PatchShows::otherwise) order.push_back(i);
    std::ranges::stable_sort(order, {}, [&](std::size_t i) { return patches[i].gaps.first; });
    std::vector<std::vector<std::size_t>> layers;
    for (const std::size_t i : order) {
        const auto free = std::ranges::find_if(layers, [&](const std::vector<std::size_t>& layer) {
            return patches[layer.back()].gaps.last < patches[i].gaps.first;
        });
        if (free == layers.end())
            layers.push_back({i});
        else
            free->push_back(i);
    }
    return layers;
}

/// The frames as they go to screen and writer.
ReadyShot withFinish(ReadyShot ready, const Finish& finish, const Making& making) {
    ready.frames = ready.unfinished;
    if (!finish.isNothing())
        ready.frames = std::make_shared<const FramesWithFinish>(ready.unfinished, finish, making.unfinished);
    return ready;
}

} // namespace

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
    const auto planned = [&](const Shot& version) {
        const auto plan = std::make_shared<const FramePlan>(planOf(version, axis, ready.timing, found));
        FrameMaker maker(footage.frames, making.vectors, plan->settings, shot.matte);
        maker.keepFinishedIn(making.finished);
        if (making.remakes) maker.shareRemakes(making.remakes);
        return std::make_shared<const PlannedFrames>(plan, std::move(maker));
    };
    ready.planned = planned(asMade);
    ready.plan = std::shared_ptr<const FramePlan>(ready.planned, &ready.planned->plan());
    ready.unfinished = ready.planned;
    const std::vector<Mend> patches = patchesOf(shot);
    if (patches.empty()) return withFinish(std::move(ready), shot.finish, making);
    std::vector<PatchAtWork> atWork;
    atWork.reserve(patches.size());
    for (const Mend& mend : patches)
        atWork.push_back({mend.gaps, *mend.patch, nullptr});
    for (const std::vector<std::size_t>& layer : layersOfOthers(patches)) {
        Shot version = asMade;
        for (const std::size_t i : layer) {
            version.mending.mends.push_back(patches[i]);
            version.mending.mends.back()
                .patch.reset(); // over the whole picture, of which the outline is taken
        }
        const auto frames = planned(version);
        for (const std::size_t i : layer)
            atWork[i].otherwise = frames;
    }
    ready.unfinished = std::make_shared<const PatchedFrames>(
        ready.planned, std::move(atWork),
        PatchMeans{footage.frames, making.vectors, found.cuts, making.outlines});
    return withFinish(std::move(ready), shot.finish, making);
}

} // namespace yarngap
