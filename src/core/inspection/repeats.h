// Frames that show again what the frame before showed.
#pragma once

#include "core/inspection/frame_metrics.h"

#include <cstdint>
#include <span>
#include <vector>

namespace yarngap {

/// Repeated frames of a shot, and the rhythm they make.
struct Repeats {
    std::vector<std::int64_t> frames; ///< each repeats the frame before it, in order
    /// 2 when drawn on twos, 3 on threes, 4 on fours; 1 when repeats, if any, keep no rhythm.
    int heldFor = 1;
};

/// Frame n repeats the one before when its most changing blocks change by no more than noise does (1.8 times
/// the change of the stillest blocks, plus half a step), while the frames within 12 of it move at least five
/// times as much. Pictures that stand still throughout have no repeats. A rhythm is named when 70 % of what
/// is seen is held for that many frames.
Repeats findRepeats(std::span<const FrameMetrics> frames);

} // namespace yarngap
