// Paths that bend: where things are between two frames when they speed up, slow down or turn.
#pragma once

#include "core/motion/vectors.h"
#include "core/synthesis/mid_motion.h"

namespace yarngap {

/// Motion of the gap before and of the gap after, coarse (see estimateCoarseFlow) or whole; of a straight
/// path neither.
struct NeighbourMotion {
    VectorsPtr before;
    VectorsPtr after;
};

/// How far what is seen at each cell lies off the straight line between its places in a and b, in cells, in
/// `vx` and `vy` of its cells. No cells at all without both neighbours: paths are straight then.
///
/// Of a point at p(−1), p(0), p(1), p(2) in four frames, the cubic through them lies off the line from p(0)
/// to p(1) by t (t − 1) / 2 · ((2 − t) q / 3 + (1 + t) r / 3), with q = p(1) − 2 p(0) + p(−1) and r = p(2) −
/// 2 p(1) + p(0) its second differences (Newton's form). Motion that is not smooth follows no cubic: the
/// whole is multiplied by |m|² / (|m|² + |q − r|² / 4 + n²), m the mean of q and r and n = 0.2 pixels, so
/// that it fades where both differ. It is averaged over 20 pixels, weighed by trust, and is at most a quarter
/// of the motion and half a pixel.
MidMotion bendOf(const MidMotion& mid, const NeighbourMotion& beside, double phase, int pictureWidth);

} // namespace yarngap
