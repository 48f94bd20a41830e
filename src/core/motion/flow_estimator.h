// Dense motion estimation between two frames.
#pragma once

#include "core/image/image.h"
#include "core/motion/vectors.h"

#include <cstdint>
#include <stop_token>
#include <string>
#include <string_view>

namespace yarngap {

/// How much work goes into the vectors.
enum class FlowQuality {
    draft,    ///< quick look, at half the size; fine outlines may wobble
    standard, ///< the default
    thorough  ///< three estimates, the best one chosen per pixel; standard motion of the gaps beside goes on
              ///< where one frame hides it, and bends paths; where it cannot be told how things moved, frames
              ///< are the mean of several ways; more than five times as slow
};

/// The picture the estimator sees.
enum class AnalyseOn {
    asIs,
    contrast, ///< with contrast lifted: faint texture, shadows
    edges     ///< outlines alone: flicker, changing light
};

[[nodiscard]] std::string_view name(FlowQuality quality);
/// Reads "draft", "standard" or "thorough"; throws Error listing them.
FlowQuality parseFlowQuality(std::string_view text);
[[nodiscard]] std::string_view name(AnalyseOn value);
/// Reads "picture", "contrast" or "edges"; throws Error listing them.
AnalyseOn parseAnalyseOn(std::string_view text);

struct FlowOptions {
    /// Work per gap. Default standard; draft while trying things out, thorough for a final that shows faults.
    FlowQuality quality = FlowQuality::standard;
    /// How strongly neighbouring pixels must move alike, 0 to 100: loose for people, animals, cloth; stiff
    /// for a camera move over a still scene. The weight of smoothness doubles every 15; above 50 pixels take
    /// the camera's own motion more and more readily, up to where the picture fits 6 steps (of 8 bit) worse.
    int stiffness = defaultStiffness;
    /// Change where the picture itself misleads.
    AnalyseOn analyseOn = AnalyseOn::asIs;

    static constexpr int defaultStiffness = 40;
    static constexpr int stiffest = 100;

    friend bool operator==(const FlowOptions&, const FlowOptions&) = default;
};

/// Pixels from which on the vectors of a gap are too large to hold several of them without need: above 1440p,
/// below 4K.
inline constexpr std::int64_t largePicture = std::int64_t{2600} * 1500;
[[nodiscard]] constexpr bool isLarge(int width, int height) {
    return std::int64_t{width} * height >= largePicture;
}
[[nodiscard]] inline bool isLarge(const Image& image) {
    return isLarge(image.width(), image.height());
}

/// Different for options that make different vectors.
std::string keyOf(const FlowOptions& options);

/// Vectors in both directions from `a` to `b` (same size and layout), with trust.
///
/// Dense inverse search (see dense_search.h) down to half the size; but in drafts, motion too large for it is
/// looked for, of the whole plane (see feature_motion.h) and of small things (see far_motion.h), refined by
/// it, and taken where it fits better. Luma is searched; which of several motions fits is judged in colour
/// too, and thorough searches what colour shows as well (see contrastedByColour). Of large pictures, and of
/// edges, luma alone is looked at. Trust per pixel = exp(-(e/s)²) × exp(-(d/r)²), with e the distance in
/// pixels between a pixel and where forward followed by backward motion brings it back, s = 0.5 + 0.05 |v|; d
/// the difference of the two pictures along the vector in 8-bit steps after a 3 x 3 mean, r = 24; 0 where the
/// vector leaves the picture. Vectors are rounded to half floats, which is how they are kept (see
/// vector_file.h).
///
/// Pictures under 16 pixels in width or height get zero vectors of no trust. Throws Cancelled.
Vectors estimateFlow(const Image& a, const Image& b, const FlowOptions& options,
                     const std::stop_token& stop = {});

/// Vectors of a quick look, left at the size at which they were found: at most 960 wide, and half the picture
/// where that has 64 pixels each way. They are in pixels of the full picture all the same.
Vectors estimateCoarseFlow(const Image& a, const Image& b, AnalyseOn analyseOn,
                           const std::stop_token& stop = {});

} // namespace yarngap
