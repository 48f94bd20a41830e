// What a frame and the one before it measure together: the raw material of all findings about a shot.
#pragma once

#include "core/image/image.h"

#include <array>
#include <cstdint>
#include <vector>

namespace yarngap {

/// Measures of frame n against frame n − 1, on luma in 8-bit steps. Combing and field differences are taken
/// over the blocks of the picture that move, so that a still background neither hides a small subject nor
/// drowns it in noise.
struct FrameMetrics {
    /// Combing of three ways of weaving two fields: each pixel's height above, or depth below, both its
    /// neighbours in the column, less 4 steps; mean over moving blocks.
    double combOwn = 0;            ///< top and bottom field of n
    double combTopOnBefore = 0;    ///< top field of n with bottom field of n − 1
    double combBottomOnBefore = 0; ///< bottom field of n with top field of n − 1
    double topChange =
        0; ///< mean |top field of n − top field of n − 1| over moving blocks, less the noise floor
    double bottomChange = 0;           ///< the same of the bottom fields
    double movingShare = 0;            ///< moving blocks over all blocks, 0 to 1
    double peakChange = 0;             ///< mean change of the 2 % of blocks that change most (at least one)
    double meanChange = 0;             ///< mean change of the whole picture
    double floor = 0;                  ///< change of the stillest blocks, which is noise
    double meanLuma = 0;               ///< of frame n, 0 to 255
    double sharpness = 0;              ///< mean |horizontal second difference| of frame n
    std::array<float, 64> histogram{}; ///< of frame n, adds up to 1
    std::array<float, 64> tiles{};     ///< mean luma of 8 x 8 tiles of frame n
    /// Largest change of the blocks in each of 16 x 9 cells beyond the noise floor, in quarter steps.
    std::array<std::uint8_t, std::size_t{16} * 9> cells{};
};

/// Measures frames handed over in display order. Not thread-safe.
///
///     FrameMeter meter;
///     for (const ImagePtr& frame : frames) metrics.push_back(meter.measure(*frame));
class FrameMeter {
  public:
    /// The first frame is measured against itself. A frame of another size starts anew.
    FrameMetrics measure(const Image& frame);

  private:
    struct Luma {
        int width = 0;
        int height = 0;
        std::vector<std::uint8_t> samples;
        [[nodiscard]] const std::uint8_t* row(int y) const {
            return samples.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
        }
    };
    /// Sums over one block of 32 x 32 samples.
    struct BlockSums {
        std::uint32_t top = 0, bottom = 0; ///< |now − before| of the fields
        std::uint32_t own = 0, topOnBefore = 0, bottomOnBefore = 0;
    };
    static void fill(Luma& luma, const Image& frame);
    void comb(int x, int y0, BlockSums& sums) const;

    Luma now_;
    Luma before_;
};

} // namespace yarngap
