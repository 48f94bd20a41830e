// Dense motion estimation between two frames.
#pragma once

#include "core/image/image.h"
#include "core/motion/vectors.h"
#include "core/settings/flow_options.h"

#include <cstdint>
#include <stop_token>

namespace yarngap {

/// Pixels from which on the vectors of a gap are too large to hold several of them without need: above 1440p,
/// below 4K.
inline constexpr std::int64_t largePicture = std::int64_t{2600} * 1500;
[[nodiscard]] constexpr bool isLarge(int width, int height) {
    return std::int64_t{width} * height >= largePicture;
}
[[nodiscard]] inline bool isLarge(const Image& image) {
    return isLarge(image.width(), image.height());
}

/// Vectors in both directions from `a` to `b` (same size and layout), with trust: by pixels in thorough
/// and with a guide, else by cells, at whose size they are found.
///
/// Dense inverse search (see dense_search.h) down to half the size; but in drafts, motion too large for it is
/// looked for, of the whole plane (see feature_motion.h) and of small things (see far_motion.h), refined by
/// it, and taken where it fits better. Luma is searched; which of several motions fits is judged in colour
/// too, and thorough searches what colour shows as well (see contrastedByColour). Of large pictures, and of
/// edges, luma alone is looked at. Trust of each = exp(-(e/s)²) × exp(-(d/r)²), with e the distance in
/// pixels between a place and where forward followed by backward motion brings it back, s = 0.5 + 0.05 |v|; d
/// the difference of the two pictures along the vector in 8-bit steps after a mean over 3 x 3 of them, r =
/// 24; 0 where the vector leaves the picture. Vectors are rounded to half floats, which is how they are kept
/// (see vector_file.h).
///
/// What `options.guide` shows is followed in the end; see followGuide.
///
/// Pictures under 16 pixels in width or height get zero vectors of no trust. Throws Cancelled.
Vectors estimateFlow(const Image& a, const Image& b, const FlowOptions& options,
                     const std::stop_token& stop = {});

/// What the vectors that thorough begins with are estimated by.
FlowOptions standardFor(const FlowOptions& options);

/// What estimateFlow() gives in thorough, for who has `standard`, those by standardFor(options), already: the
/// gaps beside need them as well.
Vectors estimateThoroughFlow(const Image& a, const Image& b, const FlowOptions& options,
                             const Vectors& standard, const std::stop_token& stop = {});

/// Vectors of a quick look, left at the size at which they were found: at most 960 wide, and half the picture
/// where that has 64 pixels each way. They are in pixels of the full picture all the same.
Vectors estimateCoarseFlow(const Image& a, const Image& b, AnalyseOn analyseOn,
                           const std::stop_token& stop = {});

} // namespace yarngap
