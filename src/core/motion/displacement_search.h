// Every displacement of every cell tried.
#pragma once

#include <opencv2/core.hpp>

#include <cstdint>
#include <stop_token>
#include <vector>

namespace yarngap {

/// The displacements tried: up to so many cells each way.
struct DisplacementReach {
    int x, y;
    [[nodiscard]] int numberOf(int dx, int dy) const { return (dy + y) * (2 * x + 1) + dx + x; }
    [[nodiscard]] cv::Point of(int number) const {
        return {number % (2 * x + 1) - x, number / (2 * x + 1) - y};
    }
};

/// Of each cell the displacement that fits best; of several alike the one of the lowest number.
struct BestDisplacements {
    int width, height;
    std::vector<std::int16_t> cost;  ///< sum over the window
    std::vector<std::int16_t> place; ///< number of the displacement

    BestDisplacements(int w, int h);
    [[nodiscard]] int costAt(int x, int y) const { return cost[at(x, y)]; }
    [[nodiscard]] int placeAt(int x, int y) const { return place[at(x, y)]; }
    [[nodiscard]] std::size_t at(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x);
    }
};

struct DisplacementsBothWays {
    BestDisplacements there, back;
};

inline constexpr int displacementWindow = 5;  ///< cells across
inline constexpr int mostCellDifference = 40; ///< at which a difference of one cell is cut off

/// Compares `a` with `b` (CV_8U, alike in size, four windows across at least) moved by each displacement
/// within `reach`, which has fewer than 32768: the difference, cut off, is summed over the window, which is
/// mirrored where it leaves what both have. Throws Cancelled.
DisplacementsBothWays bestDisplacements(const cv::Mat& a, const cv::Mat& b, const DisplacementReach& reach,
                                        const std::stop_token& stop = {});

} // namespace yarngap
