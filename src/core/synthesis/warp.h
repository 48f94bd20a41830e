// Optical-flow synthesis: an in-between made by moving the pixels of both neighbours.
#pragma once

#include "core/image/image.h"
#include "core/motion/vectors.h"
#include "core/settings/synthesis_options.h"
#include "core/synthesis/bent_path.h"
#include "core/synthesis/mid_motion.h"

#include <optional>
#include <stop_token>

namespace yarngap {

/// What the frames beside a gap tell of it.
struct Beside {
    NeighbourMotion motion = {};                      ///< none: paths are straight
    std::optional<Shake> shake = std::nullopt;        ///< of the camera, in pixels of these pictures
    std::optional<double> remakeError = std::nullopt; ///< mean of those of both its frames; see remake.h
};

/// A made in-between and how far to doubt it.
struct WarpedFrame {
    Image image;
    double doubt = 0;     ///< 0 to 1; see doubtOf
    double edgeScale = 1; ///< see scaleThatHides
};

/// The picture at `phase` between `a` and `b`, in their own planes. 0 < phase < 1, or with even texture
/// 0 ≤ phase ≤ 1. Throws Cancelled. `tags` say what light the samples stand for; used by options.linearLight
/// alone.
///
/// out(x) = (1 − s) A(x − phase·v) + s B(x + (1 − phase)·v), with v and s from projectMotion, A and B read
/// by cubic splines (see SplinePlane); with the motion of the gaps `beside`, at places moved by what the path
/// bends there (see bendOf). Each plane is read with the motion scaled to it. A
/// side whose place lies outside the picture does not count where the other side's lies inside.
///
/// With `vectors.others`, it is the mean of what all of these motions show: where the choice between them is
/// a close one, any one alone tears what it gets wrong, and the mean is nearer the true picture than most of
/// them, as errors that have little to do with each other cancel out. Where all agree it is that of the
/// first. Doubt, the edge scale and trust are those of the first.
///
/// Below the trust limit, the stand-in takes over (see standInWeights). With keepGrain, where both sides
/// differ by no more than grain does, the fine part of the nearer one is shown whole: mixing n uncorrelated
/// grains in parts s and 1 − s leaves √(s² + (1 − s)²) of their strength.
WarpedFrame warpBetween(const Image& a, const Image& b, const Vectors& vectors, double phase,
                        const SynthesisOptions& options = {}, const ColourTags& tags = {},
                        const Beside& beside = {}, const std::stop_token& stop = {});

/// The motion, trust and shares by which warpBetween makes the same frame.
MidMotion motionOfFrame(const Image& a, const Image& b, const Vectors& vectors, double phase,
                        const SynthesisOptions& options = {});

} // namespace yarngap
