// Motion seen from a moment inside a gap.
#pragma once

#include "core/motion/vectors.h"

#include <vector>

namespace yarngap {

/// For each pixel of the in-between: the motion through it and how much of it is seen from either side.
struct MidMotion {
    int width = 0;
    int height = 0;
    VectorField motion;        ///< from a to b, in pixels, of what is at this pixel at the moment
    std::vector<float> shareB; ///< 0: the pixel is taken from a only; 1: from b only
};

/// Projects both fields of a gap to `phase`, 0 < phase < 1.
///
/// Each pixel of a is carried phase × its forward vector, each pixel of b (1 − phase) × its backward
/// vector, spread over the four pixels it lands between (forward warping), where trusted vectors outweigh
/// doubtful ones. Where only one side lands, the other is hidden, and only the one that sees the pixel is
/// used; where both land they mix in the ratio 1 − phase : phase. Where the two disagree, the motion whose
/// two pictures agree better, by luma of `lumaA`, `lumaB` (planes of 0 to 1, same size), wins. Pixels nobody
/// lands on take the motion around them.
MidMotion projectMotion(const Vectors& vectors, const std::vector<float>& lumaA,
                        const std::vector<float>& lumaB, double phase);

} // namespace yarngap
