// Optical-flow synthesis: an in-between made by moving the pixels of both neighbours.
#pragma once

#include "core/image/image.h"
#include "core/motion/vectors.h"

namespace yarngap {

/// A made in-between and how far to doubt it.
struct WarpedFrame {
    Image image;
    double doubt = 0; ///< 0 to 1; see doubtOf
};

/// The picture at `phase` (0 < phase < 1) between `a` and `b`, in their own planes.
///
/// out(x) = (1 − s) A(x − phase·v) + s B(x + (1 − phase)·v), with v and s from projectMotion, A and B read
/// by cubic splines (see SplinePlane). Each plane is read with the motion scaled to it. A
/// side whose place lies outside the picture does not count where the other side's lies inside.
WarpedFrame warpBetween(const Image& a, const Image& b, const Vectors& vectors, double phase);

} // namespace yarngap
