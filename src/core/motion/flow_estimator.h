// Dense motion estimation between two frames.
#pragma once

#include "core/image/image.h"
#include "core/motion/vectors.h"

#include <stop_token>
#include <string_view>

namespace yarngap {

/// How much work goes into the vectors.
enum class FlowQuality {
    draft,    ///< quick look, at half the size; fine outlines may wobble
    standard, ///< the default
    thorough  ///< finest grid and more refinement, several times slower
};

[[nodiscard]] std::string_view name(FlowQuality quality);
/// Reads "draft", "standard" or "thorough"; throws Error listing them.
FlowQuality parseFlowQuality(std::string_view text);

struct FlowOptions {
    /// Work per gap. Default standard; draft while trying things out, thorough for a final that shows faults.
    FlowQuality quality = FlowQuality::standard;

    friend bool operator==(const FlowOptions&, const FlowOptions&) = default;
};

/// Vectors in both directions from luma of `a` and `b` (same size and layout), with trust.
///
/// Dense inverse search (Kroeger, Timofte, Dai, Van Gool: Fast Optical Flow using Dense Inverse Search, 2016)
/// as in OpenCV. Trust per pixel = exp(-(e/s)²) × exp(-(d/r)²), with e the distance in pixels between a
/// pixel and where forward followed by backward motion brings it back, s = 0.5 + 0.05 |v|; d the difference
/// of the two pictures along the vector in 8-bit steps after a 3 x 3 mean, r = 24; 0 where the vector leaves
/// the picture.
///
/// Pictures under 16 pixels in width or height get zero vectors of no trust. Throws Cancelled.
Vectors estimateFlow(const Image& a, const Image& b, const FlowOptions& options,
                     const std::stop_token& stop = {});

} // namespace yarngap
