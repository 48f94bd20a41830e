// Parts of the picture that change only every second or third frame while the rest moves on.
#pragma once

#include "core/inspection/frame_metrics.h"

#include <cstdint>
#include <span>

namespace yarngap {

/// A puppet shot on twos before a background filmed on ones, for example.
struct HeldPart {
    int heldFor = 1;            ///< 2 or 3; 1 when no part keeps such a rhythm
    std::int64_t changesAt = 0; ///< the part changes at frames n with n mod heldFor = changesAt
};

/// A cell of the grid jumps at frame n when it changes by more than 2.5 times what it changes at any other
/// frame of a cycle around n, and by two steps more. A rhythm is found when at least 85 % of all jumps fall
/// on one place of the cycle, in at least 40 % of its cycles and no fewer than four.
HeldPart findHeldPart(std::span<const FrameMetrics> frames);

} // namespace yarngap
