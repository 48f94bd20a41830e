// What a frame and the one before it measure together: the raw material of all findings about a shot.
#pragma once

#include "core/image/image.h"

#include <array>
#include <cstdint>
#include <vector>

namespace yarngap {

/// Where in time a field lies between two fields of the other kind: at 0 it shows the moment of the first, at
/// 1 that of the second, in between one between them.
///
/// The least-squares fit of b = (1 − t) p + t q, where b are samples of the field and p and q those of both
/// others beside it, interpolated to its lines: t = Σ (b − p)(q − p) / Σ (q − p)². At 0 and at 1 it is exact
/// however far things move. Elsewhere it is exact where they move less than the detail they have, and goes to
/// 1/2 where they move farther, also for a field that lies outside.
struct FieldPlace {
    double at = 0;
    double deviation = 0; ///< standard deviation of `at`, from its spread over blocks; below 0: not known
    [[nodiscard]] bool isKnown() const { return deviation >= 0; }
};

/// Measures of frame n against frame n − 1, on luma in 8-bit steps. Field measures are taken over the blocks
/// of the picture that move, so that a still background neither hides a small subject nor drowns it in noise.
struct FrameMetrics {
    FieldPlace bottomPlace{0, -1}; ///< of the bottom field of n between the top fields of n − 1 and n
    FieldPlace topPlace{0, -1};    ///< of the top field of n between the bottom fields of n − 1 and n
    /// Mean square change of the top field and of the bottom field over moving blocks, less that of noise.
    double topEnergy = 0, bottomEnergy = 0;
    double energyDeviation = 0; ///< standard deviation of the mean of both
    double noiseEnergy = 0;     ///< mean square change of the stillest blocks
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
    };
    /// What a field's place is worked out from, of one block; see FieldPlace.
    struct PlaceSums {
        double along = 0;   ///< Σ (b − p)(q − p)
        double squares = 0; ///< Σ (q − p)²
        double samples = 0;
        /// Of the same sums of each row, for their spread: Σ of squares and products over rows.
        double alongAlong = 0, alongSquares = 0, squaresSquares = 0;
        double rowSamples = 0; ///< samples in a row
        double rows = 0;
        void addRow(double rowAlong, double rowSquares, int count);
    };
    struct FieldSums {
        PlaceSums bottom, top;
    };
    static void fill(Luma& luma, const Image& frame);
    [[nodiscard]] FieldSums fieldSums(int x, int y0) const;
    void placeFields(FrameMetrics& metrics, const std::vector<std::size_t>& movers,
                     const std::vector<std::size_t>& still, int columns) const;

    Luma now_;
    Luma before_;
};

} // namespace yarngap
