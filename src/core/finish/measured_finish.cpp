#include "core/finish/measured_finish.h"

#include <algorithm>
#include <vector>

namespace yarngap {

GrainLook measuredGrain(ShotFrames& source, std::int64_t first, std::int64_t last,
                        const std::stop_token& stop) {
    constexpr std::int64_t few = 8;
    std::vector<GrainLook> looks;
    const std::int64_t count = std::min(few, last - first + 1);
    for (std::int64_t i = 0; i < count; ++i) {
        throwIfStopped(stop);
        const std::int64_t n = first + (2 * i + 1) * (last - first + 1) / (2 * count);
        looks.push_back(grainOf(inFloats(*source.frame(n, stop)), source.facts().colour));
    }
    return meanOf(looks);
}

bool lacksMeasures(const Finish& finish) {
    return (finish.calm.by != CalmBy::nothing && finish.calm.path.empty()) ||
           (finish.texture.grain == GrainKind::matched && finish.texture.own.isNothing());
}

Finish withMeasures(Finish finish, ShotFrames& source, const std::shared_ptr<VectorStore>& vectors,
                    std::int64_t first, std::int64_t last, std::span<const std::int64_t> cuts,
                    const Progress& progress, const std::stop_token& stop) {
    if (finish.texture.grain == GrainKind::matched && finish.texture.own.isNothing())
        finish.texture.own = measuredGrain(source, first, last, stop);
    if (finish.calm.by != CalmBy::nothing && finish.calm.path.empty()) {
        const auto beside = static_cast<std::int64_t>(2 * source.facts().rate.toDouble());
        finish.calm.path = measuredCamera(source, vectors, std::max<std::int64_t>(0, first - beside),
                                          std::min(source.frames() - 1, last + beside), cuts, progress, stop);
    }
    return finish;
}

HiddenEdges leastHidingScale(const OutputFrames& unfinished, const Finish& finish, std::int64_t first,
                             std::int64_t last, const Progress& progress, const std::stop_token& stop) {
    HiddenEdges out;
    const FinishGeometry geometry(finish, unfinished.source().facts());
    for (std::int64_t n = first; n <= last; ++n) {
        throwIfStopped(stop);
        const PlanRow& row = unfinished.row(n);
        double edge = 1;
        if (row.kind == FrameKind::flow) edge = unfinished.make(n, stop).edgeScale;
        const FinishPlace place = finishPlaceOf(unfinished.plan(), n);
        const auto scale = geometry.scaleThatHides(place, edge);
        if (scale && *scale <= HiddenEdges::largest) {
            if (*scale > out.scale) {
                out.scale = *scale;
                out.worst = n;
            }
        } else if (out.cannotBeHidden++ == 0) {
            out.firstSuch = n;
        }
        if (progress) progress(static_cast<double>(n - first + 1) / static_cast<double>(last - first + 1));
    }
    return out;
}

} // namespace yarngap
