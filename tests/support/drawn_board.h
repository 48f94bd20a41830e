// A board that moves before a wall, with known motion everywhere.
#pragma once

#include "support/pictures.h"

#include <opencv2/core.hpp>

#include <array>
#include <cmath>
#include <cstddef>
#include <memory>

namespace yarngap::test {

/// Looks like no other place nearby; 36 to 220.
inline double texture(double x, double y) {
    return 128 + 30 * std::sin(x * 0.31 + 0.4 * std::sin(y * 0.17)) + 28 * std::sin(y * 0.23 + x * 0.05) +
           20 * std::sin((x + 2 * y) * 0.11) + 14 * std::sin(x * 0.9) * std::sin(y * 0.7);
}

struct DrawnBoard {
    int width = 240;
    int height = 160;
    cv::Rect start = {}; ///< of the board in frame 0, empty for none
    int fast = 0;        ///< pixels a frame to the right: the board
    int slow = 0;        ///< the wall behind it
    /// How far the camera's shake moves whole frames 0 to 3 to the right; others stand as the first does.
    std::array<int, 4> shaken{};

    [[nodiscard]] int shakenAt(double n) const {
        const auto whole = static_cast<std::size_t>(n);
        return static_cast<double>(whole) == n && whole < shaken.size() ? shaken[whole] : shaken[0];
    }
    [[nodiscard]] cv::Rect at(double n) const {
        return start + cv::Point(static_cast<int>(std::lround(n * fast)) + shakenAt(n), 0);
    }
    [[nodiscard]] Image frame(double n) const {
        const int moved = shakenAt(n);
        return pictureOf(width, height, {.model = ColourModel::grey, .depth = 8}, [&](int, int x, int y) {
            return at(n).contains({x, y}) ? 255 - 0.7 * texture(x - moved - n * fast + 300, y + 200)
                                          : texture(x - moved - n * slow, y);
        });
    }
    [[nodiscard]] ImagePtr frameAt(double n) const { return std::make_shared<Image>(frame(n)); }
};

} // namespace yarngap::test
