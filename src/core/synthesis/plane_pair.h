// Two planes read between their samples, side by side.
#pragma once

#include "core/synthesis/mid_motion.h"
#include "core/synthesis/spline_plane.h"

#include <array>
#include <cstdint>
#include <span>

namespace yarngap {

/// A plane of both frames of a gap, read where a motion leads from a place between them.
class PlanePair {
  public:
    /// Where in a and in b, in 1 / SplinePlane::fine of a sample, inside the planes.
    struct Places {
        std::uint32_t ax, ay, bx, by;
    };

    /// Plane `p` of two pictures of the same size and layout, at `phase` between them.
    PlanePair(const Image& a, const Image& b, float phase, int p)
        : a_(a, p)
        , b_(b, p)
        , phase_(phase)
        , right_(static_cast<float>(a.plane(p).width - 1))
        , bottom_(static_cast<float>(a.plane(p).height - 1)) {}

    /// Where the motions of `cells`, in samples, lead from row `y`, its first sample at `x`; from places
    /// moved by the `bends`, which are as many or none. What leads outside is at the edge.
    void follow(std::span<const MidCell> cells, std::span<const MidCell> bends, int x, int y,
                Places* places) const;

    /// Of each of n places, a + shareB (b − a) of what is there.
    void readMixed(const Places* places, const float* shareB, std::size_t n, float* values) const;
    /// What is there in either.
    void readBoth(const Places* places, std::size_t n, float* ofA, float* ofB) const;

  private:
    SplinePlane a_, b_;
    float phase_;
    float right_, bottom_;
};

} // namespace yarngap
