// How far to doubt a made frame.
#pragma once

#include "core/synthesis/mid_motion.h"

#include <optional>
#include <vector>

namespace yarngap {

/// Doubt of a flow frame, 0 (sure) to 1, from what can be known without the true frame.
///
/// doubt = 1 − exp(−√(4 φ (1 − φ) y) / 40), with y = s, or s^0.4 (1 + e)^0.6 where the frames beside are
/// known, and s = r² (1 + m); r the root mean square in 8-bit steps of the difference between both pictures
/// (see CellPicture) along the motion, over cells that both have (a quarter of them where there are 480 or
/// more across); φ the phase; m the mean motion in 960ths of the picture's width: what moves farther strays
/// farther from the straight line between two frames; e the mean of `remakeError`s of a and b (see remake.h):
/// what both frames agree on may be wrong all the same, where things speed up or turn, and the frames at hand
/// are known to be true. The form was chosen by rank correlation with the error of left-out frames of mixed
/// clips (see bench_quality), and 40 so that a clean slow pan stays below 0.2.
double doubtOf(const MidMotion& mid, const std::vector<float>& lumaA, const std::vector<float>& lumaB,
               double phase, std::optional<double> remakeError = {});

} // namespace yarngap
