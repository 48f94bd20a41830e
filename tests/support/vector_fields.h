// Vectors whose motion is given place by place.
#pragma once

#include "core/motion/vectors.h"

#include <opencv2/core.hpp>

#include <cstddef>
#include <functional>

namespace yarngap::test {

/// `motion` at every pixel of a picture.
inline VectorField fieldOf(int width, int height, const std::function<cv::Vec2f(int, int)>& motion) {
    VectorField out{width, height, {}};
    out.xy.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * 2);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const cv::Vec2f v = motion(x, y);
            out.row(y)[2 * x] = v[0];
            out.row(y)[2 * x + 1] = v[1];
        }
    return out;
}

} // namespace yarngap::test
