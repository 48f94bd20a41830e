// Frames before and after a shot, for the edit to play with.
#pragma once

#include "core/time/timing.h"

#include <cstdint>

namespace yarngap {

/// A timing with handles, and how many output frames there are of them.
struct WithHandles {
    Timing timing;
    std::int64_t before = 0, after = 0;
};

/// `timing` going on at the speed of its ends for `before` output frames earlier and `after` later, or as
/// many as the `mediaFrames` of the file allow; a freeze goes on standing. What was output frame n is n +
/// before then, and shows the same place.
WithHandles withHandles(const Timing& timing, std::int64_t before, std::int64_t after,
                        std::int64_t mediaFrames);

} // namespace yarngap
