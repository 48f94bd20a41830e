// The few motions that are seen around a place.
#pragma once

#include "core/motion/vectors.h"

#include <opencv2/core.hpp>

#include <array>
#include <stop_token>
#include <vector>

namespace yarngap {

/// For every tile of 16 x 16 pixels the motions that the most trusted pixels around it share, at most `most`.
///
/// Vectors within 40 pixels of the middle of the tile, every third each way, are counted by whole pixels of
/// motion, each with its trust (and a fiftieth, so that what nothing confirms counts a little). The largest
/// count with those a pixel beside it is one motion, fitted as one that changes evenly (an affine map, least
/// squares); it is taken out, and the next is looked for, until one has less than a fiftieth of all. Vectors
/// that are no numbers, or longer than 10 000 pixels, do not count.
class LocalMotions {
  public:
    static constexpr int most = 4;
    static constexpr int side = 16;  ///< of a tile, in pixels
    static constexpr int reach = 40; ///< from the middle of a tile to the edges of what is around it

    /// Throws Cancelled.
    LocalMotions(const VectorField& field, const TrustField& trust, const std::stop_token& stop = {});

    /// How many there are at a pixel.
    [[nodiscard]] int countAt(int x, int y) const { return tileAt(x, y).count; }
    /// The `i`th at a pixel, in pixels. i < countAt(x, y).
    [[nodiscard]] cv::Vec2f at(int i, int x, int y) const;

  private:
    /// v(dx, dy) = middle + dx across + dy down, from the middle of the tile, in parts of `reach`.
    struct Motion {
        cv::Vec2f middle, across, down;
    };
    struct Tile {
        int count = 0;
        std::array<Motion, most> motions;
    };
    [[nodiscard]] const Tile& tileAt(int x, int y) const {
        return tiles_[static_cast<std::size_t>(y / side) * static_cast<std::size_t>(across_) +
                      static_cast<std::size_t>(x / side)];
    }

    int across_; ///< tiles in a row
    std::vector<Tile> tiles_;
};

} // namespace yarngap
