// How a frame looks next to others: its sharpness, and how much it changes from the one before.
#pragma once

#include "core/image/image.h"

#include <cstdint>
#include <vector>

namespace yarngap {

/// Measured on luma (green of RGB), in 8-bit steps.
struct FrameLook {
    /// Mean |second difference|, across and down: falls when a made frame is softer than the frames it lies
    /// between, which shows as pulsing when they play.
    double sharpness = 0;
    int width = 0, height = 0; ///< of `small`
    /// The picture as means of equal cells, about 160 x 90 of them, in sixteenths of a step.
    std::vector<std::uint16_t> small;
};

FrameLook lookOf(const Image& frame);

/// Mean |difference| of two frames in 8-bit steps, each cell of `small` counted once; 0 for looks of unlike
/// size, and for a repeat.
double changeBetween(const FrameLook& a, const FrameLook& b);

} // namespace yarngap
