// How far to scale in so that bare picture edges are not seen.
#pragma once

#include "core/synthesis/mid_motion.h"

namespace yarngap {

/// The least scale about the picture's middle, 1 or more, that moves out of the picture every cell which
/// neither source frame has: whose place lies more than a pixel outside both, as at corners of a picture that
/// turns, shakes or moves aslant. Such cells repeat the nearest edge.
///
/// A cell at (x, y) from the middle of a picture w x h leaves it at the scale 1 / max(2|x| / w, 2|y| / h);
/// the result is the greatest of these. What would take more than `largestEdgeScale` is no edge and is not
/// counted.
double scaleThatHides(const MidMotion& mid, double phase);

inline constexpr double largestEdgeScale = 1.25;

} // namespace yarngap
