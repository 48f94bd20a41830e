// A board that moves before a wall, with known motion everywhere.
#pragma once

#include "support/pictures.h"

#include <opencv2/core.hpp>

#include <cmath>
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
    cv::Rect start; ///< of the board in frame 0
    int fast = 0;   ///< pixels a frame to the right: the board
    int slow = 0;   ///< the wall behind it

    [[nodiscard]] cv::Rect at(double n) const {
        return start + cv::Point(static_cast<int>(std::lround(n * fast)), 0);
    }
    [[nodiscard]] Image frame(double n) const {
        return pictureOf(width, height, {.model = ColourModel::grey, .depth = 8}, [&](int, int x, int y) {
            return at(n).contains({x, y}) ? 255 - 0.7 * texture(x - n * fast + 300, y + 200)
                                          : texture(x - n * slow, y);
        });
    }
    [[nodiscard]] ImagePtr frameAt(double n) const { return std::make_shared<Image>(frame(n)); }
};

} // namespace yarngap::test
