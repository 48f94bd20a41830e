// Paths that bend: where things are between two frames when they speed up, slow down or turn.
#pragma once

#include "core/motion/vectors.h"
#include "core/synthesis/mid_motion.h"
#include "core/time/shake.h"

#include <array>
#include <optional>

namespace yarngap {

/// Motion of the gap before and of the gap after, coarse (see estimateCoarseFlow) or whole; of a straight
/// path neither.
struct NeighbourMotion {
    VectorsPtr before;
    VectorsPtr after;
};

/// How far the whole picture lies off the straight line at `phase` of a gap, in pixels: of the cubic that has
/// the places of both frames and the speeds of `shake` (Hermite's form), t (1 − t) ((1 − t) v₀ − t v₁), with
/// v₀ and v₁ less the mean speed.
std::array<double, 2> offLine(const Shake& shake, double phase);

/// How far what is seen at each cell lies off the straight line between its places in a and b, in cells, in
/// `vx` and `vy` of its cells. No cells at all without both neighbours and without `shake`: paths are
/// straight then.
///
/// Of a point at p(−1), p(0), p(1), p(2) in four frames, the cubic through them lies off the line from p(0)
/// to p(1) by t (t − 1) / 2 · ((2 − t) q / 3 + (1 + t) r / 3), with q = p(1) − 2 p(0) + p(−1) and r = p(2) −
/// 2 p(1) + p(0) its second differences (Newton's form). Motion that is not smooth follows no cubic: the
/// whole is multiplied by |m|² / (|m|² + |q − r|² / 4 + n²), m the mean of q and r and n = 0.2 pixels, so
/// that it fades where both differ. It is averaged over 20 pixels, weighed by trust, and is at most a quarter
/// of the motion and half a pixel.
///
/// Where the shake of the camera is known, the bend that most of the picture shares is that of `shake`, as
/// far as blur tells it: the median of each coordinate goes towards it by that part.
MidMotion bendOf(const MidMotion& mid, const NeighbourMotion& beside, const std::optional<Shake>& shake,
                 double phase, int pictureWidth);

} // namespace yarngap
