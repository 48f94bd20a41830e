// Timings to make plans of.
#pragma once

#include "core/time/timing.h"

#include <utility>
#include <vector>

namespace yarngap::test {

/// All of a shot of `frames` frames at equal rates, along `keys`.
inline Timing timingOf(std::vector<TimeKey> keys, std::int64_t frames) {
    return {.sourceRate = Rate(24, 1),
            .outputRate = Rate(24, 1),
            .from = 0,
            .to = frames - 1,
            .speed = 1,
            .keys = std::move(keys)};
}

} // namespace yarngap::test
