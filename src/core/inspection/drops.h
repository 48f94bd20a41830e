// Frames that were lost: places where everything moves on by two steps at once.
#pragma once

#include "core/image/image.h"
#include "core/inspection/frame_metrics.h"

#include <cstdint>
#include <functional>
#include <span>
#include <stop_token>
#include <vector>

namespace yarngap {

struct Drop {
    std::int64_t after = 0; ///< the last frame before the lost ones
    int missing = 1;        ///< how many are lost
    /// The frame `after` repeats the one before it in place of the lost one, so that the count is right.
    bool filled = false;
    double certainty = 1; ///< 0 to 1: how near to a whole number of steps things move

    friend bool operator==(const Drop&, const Drop&) = default;
};

/// Steps that change clearly more (by a fifth) than those before and after, where the picture changes
/// steadily otherwise; those alone are looked at. `repeats` are frames that repeat the one before. At most
/// 40, the clearest.
std::vector<std::int64_t> suspectedDrops(std::span<const FrameMetrics> frames,
                                         std::span<const std::int64_t> repeats,
                                         std::span<const std::int64_t> cuts);

/// Measures motion at the `suspected` steps: frames are lost where things move 1.6 to 4.4 times as far as in
/// the steps before and after, which agree within two fifths in length and direction, as most of what moves
/// must. Throws what `frame` throws, or Cancelled.
std::vector<Drop> confirmDrops(std::span<const std::int64_t> suspected, std::span<const std::int64_t> repeats,
                               std::int64_t frames, const std::function<ImagePtr(std::int64_t)>& frame,
                               const std::stop_token& stop = {});

} // namespace yarngap
