// A shot filmed at a higher rate beside the frames made from its thinned-out version.
#pragma once

#include "core/time/frame_plan.h"
#include "core/time/rate.h"

namespace yarngap {

/// For each row of `plan` the frame of another file that was taken at the same moment, to compare with: the
/// nearest, where both files begin at the same moment. Source frames of `plan` are `sourceRate` apart, those
/// of the file `trueRate`; it has `trueFrames`, at least one. A row is an original where the file has a frame
/// at exactly its moment, else a repeat.
FramePlan planOfTrueFrames(const FramePlan& plan, const Rate& sourceRate, const Rate& trueRate,
                           std::int64_t trueFrames);

} // namespace yarngap
