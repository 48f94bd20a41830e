// Motion seen from a moment inside a gap.
#pragma once

#include "core/motion/vectors.h"
#include "core/synthesis/synthesis_options.h"

#include <vector>

namespace yarngap {

/// For each pixel of the in-between: the motion through it and how much of it is seen from either side.
struct MidMotion {
    int width = 0;
    int height = 0;
    VectorField motion;        ///< from a to b, in pixels, of what is at this pixel at the moment
    std::vector<float> shareB; ///< 0: the pixel is taken from a only; 1: from b only
    std::vector<float> trust;  ///< 0 to 1, of the motion at this pixel; see projectMotion
};

/// Projects both fields of a gap to `phase`, 0 < phase < 1.
///
/// Each pixel of a is carried phase × its forward vector, each pixel of b (1 − phase) × its backward
/// vector, spread over the four pixels it lands between (forward warping), where trusted vectors outweigh
/// doubtful ones. Where only one side lands, the other is hidden, and only the one that sees the pixel is
/// used; where both land they mix in the ratio 1 − phase : phase. Where the two disagree, the motion whose
/// two pictures agree better, by luma of `lumaA`, `lumaB` (planes of 0 to 1, same size), wins. Pixels nobody
/// lands on take the motion around them.
///
/// `options.inFront` slower or faster: of motions that land on one pixel, or of which each side sees another,
/// the slower or faster wins instead, beyond a difference of two pixels. `options.evenTexture`: both sides
/// mix in equal parts whatever the phase, which may then be 0 or 1. `options.sides` other than both: that
/// side alone. Trust is given where `options.trustLimit` asks for it.
///
/// Trust of a pixel both sides see = (0.4 + 0.6 m) exp(−(d/24)²), with m the mean trust of the vectors that
/// landed and d the mean difference of both pictures along the motion over 3 x 3 pixels in 8-bit steps: what
/// the two pictures agree on is rarely wrong, even where the vectors of both directions do not meet. 0.6 +
/// 0.4 m where one side sees it; 0 where nobody does.
MidMotion projectMotion(const Vectors& vectors, const std::vector<float>& lumaA,
                        const std::vector<float>& lumaB, double phase, const SynthesisOptions& options = {});

} // namespace yarngap
