#include "core/synthesis/kind_makers.h"

namespace yarngap {

const KindMaker& kindMakerOf(const PlanRow& row) {
    switch (row.kind) {
    case FrameKind::original:
    case FrameKind::repeat:
    case FrameKind::held:
        break;
    case FrameKind::blend:
        return blendedFrames;
    case FrameKind::flow:
        if (row.subject) return partedFrames;
        return row.open > Rational(0) ? blurredFrames : flowFrames;
    }
    return shownFrames;
}

} // namespace yarngap
