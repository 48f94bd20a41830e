#include "core/time/true_frames.h"

#include <algorithm>

namespace yarngap {

FramePlan planOfTrueFrames(const FramePlan& plan, const Rate& sourceRate, const Rate& trueRate,
                           std::int64_t trueFrames) {
    FramePlan out;
    out.mediaFrames = trueFrames;
    out.rows.reserve(plan.rows.size());
    const Rational factor = trueRate.value() / sourceRate.value();
    for (const PlanRow& row : plan.rows) {
        const Rational wanted = (Rational(row.position.frame) + row.position.phase) * factor;
        const std::int64_t frame = std::clamp<std::int64_t>(wanted.round(), 0, trueFrames - 1);
        PlanRow there;
        there.output = row.output;
        there.position.frame = frame;
        there.kind = wanted == Rational(frame) ? FrameKind::original : FrameKind::repeat;
        there.first = there.last = frame;
        out.rows.push_back(there);
    }
    return out;
}

} // namespace yarngap
