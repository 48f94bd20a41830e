// What a single frame offers a motion estimator: grain, sharpness, exposure, texture that repeats.
#pragma once

#include "core/image/image.h"

namespace yarngap {

/// Measured on the luma of one frame, in 8-bit steps and pixels of the full picture.
struct PictureQuality {
    /// Standard deviation of grain. Immerkær, "Fast noise variance estimation" (1996), per block of 32 x 32;
    /// the tenth percentile of the blocks, since texture only adds.
    double noise = 0;
    /// Width of the clearest horizontal edges: contrast over steepest slope, median. A step blurred by a
    /// Gaussian of deviation s is s √(2π) wide. 0 when there is no clear edge.
    double edgeWidth = 0;
    double clipped = 0;  ///< share of pixels at the black or white end
    double meanLuma = 0; ///< 0 to 255 of the range
    /// Share of windows (64 x 64 at 640 columns, textured ones) that look alike when moved by 6 to 32
    /// samples: their autocorrelation rises above 0.6 again after falling below 0.3.
    double repeating = 0;
    double repeatStep = 0; ///< median of that distance
};

PictureQuality measureQuality(const Image& frame, bool fullRange);

/// Movement of the picture as a whole from `a` to `b`, small pictures of one size, in their pixels; phase
/// correlation.
struct WholeMotion {
    double x = 0, y = 0;
};
WholeMotion wholeMotion(const Image& a, const Image& b);

} // namespace yarngap
