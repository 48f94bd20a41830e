// One of a few motions for every cell, so that neighbours move alike.
#pragma once

#include "core/motion/analysis_picture.h"

#include <array>
#include <cstdint>
#include <span>
#include <stop_token>
#include <vector>

namespace yarngap {

/// Motions that the cells of a picture may have, with what each costs in 8-bit steps; row by row.
struct CellMotions {
    static constexpr int most = 6;
    /// A number for each motion of a cell; those past the last are never chosen.
    using Four = float __attribute__((vector_size(16)));
    using Eight = std::array<Four, 2>;
    static void set(Eight& all, int motion, float value) {
        all[static_cast<std::size_t>(motion / 4)][motion % 4] = value;
    }
    static float get(const Eight& all, int motion) {
        return all[static_cast<std::size_t>(motion / 4)][motion % 4];
    }

    int width = 0;
    int height = 0;
    std::vector<Eight> cost; ///< `never` of those that a cell has not got
    std::vector<Eight> x, y; ///< in pixels

    static constexpr float never = 1e4F;

    /// `width` x `height` cells that have no motion.
    CellMotions(int w, int h);
};

/// The number of one motion for every cell: semi-global matching (Hirschmüller 2008), along rows and columns
/// both ways.
///
/// What a chain of cells costs is the sum of what their motions cost, and for every step between two
/// neighbours e · min(24, 3 d) with d the difference of their motions in pixels (both parts added) and e =
/// 0.2 + 0.8 exp(−c / 7), c being how far the pictures of both differ in 8-bit steps: motion changes at
/// outlines. `picture` is as large as the cells and of one piece (not a part of another). The motion wins
/// whose cheapest chains from all four sides cost least together. Throws Cancelled.
std::vector<std::uint8_t> chooseSemiGlobally(const CellMotions& motions, const ColouredPicture& picture,
                                             const std::stop_token& stop = {});

/// A way of judging the same motions: what they cost, and what the first of them costs besides.
struct CellCosts {
    const std::vector<CellMotions::Eight>& cost; ///< as in CellMotions
    float first = 0;
};

/// The same for up to 5 `ways`, in about the time that two take by themselves. `motions.cost` is not used.
std::vector<std::vector<std::uint8_t>> chooseSemiGlobally(const CellMotions& motions,
                                                          std::span<const CellCosts> ways,
                                                          const ColouredPicture& picture,
                                                          const std::stop_token& stop = {});

} // namespace yarngap
