// Cuts: where one shot of a file ends and the next begins.
#pragma once

#include "core/inspection/frame_metrics.h"

#include <cstdint>
#include <span>
#include <vector>

namespace yarngap {

/// First frames after a cut, in order; never frame 0.
///
/// Frame n begins a shot when it changes at least 3.5 times as much as the frames around it do, its 8 x 8
/// tiles differ from those before by 7 steps or more (or 4, with a histogram of which 30 % lies elsewhere),
/// and the frame after does not return to what was before, as after a flash.
std::vector<std::int64_t> findCuts(std::span<const FrameMetrics> frames);

} // namespace yarngap
