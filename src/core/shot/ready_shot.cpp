#include "core/shot/ready_shot.h"

#include "core/media/interpreted_source.h"

#include <utility>

namespace yarngap {

Footage footageOf(const std::shared_ptr<const MediaIndex>& index, const Interpretation& interpretation,
                  std::size_t cacheBytes) {
    validate(interpretation, *index);
    return footageOf(index, std::make_shared<const SourceAxis>(*index, interpretation),
                     std::make_shared<FrameSource>(index, cacheBytes), cacheBytes);
}

Footage footageOf(const std::shared_ptr<const MediaIndex>& index, std::shared_ptr<const SourceAxis> axis,
                  const std::shared_ptr<FrameSource>& coded, std::size_t madeBytes) {
    auto frames = interpreted(coded, index, axis->interpretation(), madeBytes);
    return {index, std::move(axis), std::move(frames)};
}

FramePlan planOf(const Shot& shot, const SourceAxis& axis, const Timing& timing, const GapFindings& found) {
    FramePlan plan = makePlan(timing, shot.methods(found), axis.frames());
    plan.marks = axis.marks();
    return plan;
}

ReadyShot readyShot(const Shot& shot, const Footage& footage, const GapFindings& found,
                    const Making& making) {
    ReadyShot ready;
    const SourceAxis& axis = *footage.axis;
    ready.timing = making.timing ? *making.timing : shot.timing(axis.facts().rate, axis.frames());
    ready.plan = std::make_shared<FramePlan>(planOf(shot, axis, ready.timing, found));
    auto maker = std::make_shared<FrameMaker>(footage.frames, making.vectors,
                                              making.isFinal ? shot.inBetweens.forFinal() : shot.inBetweens,
                                              shot.matte);
    maker->keepFinishedIn(making.finished);
    if (making.remakes) maker->shareRemakes(making.remakes);
    ready.maker = std::move(maker);
    return ready;
}

} // namespace yarngap
