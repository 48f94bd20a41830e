// Estimated vectors that a test can ask pixel by pixel.
#pragma once

#include "core/motion/cell_vectors.h"
#include "core/motion/flow_estimator.h"

#include <algorithm>
#include <cstddef>

namespace yarngap::test {

/// `cells` at every pixel, evenly from the middle of one to the next.
inline VectorField betweenCells(const VectorField& cells, int width, int height) {
    VectorField out{width, height, {}};
    out.xy.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * 2);
    const auto nearest = [](int pixel, int count) { return std::clamp(pixel / 2, 0, count - 1); };
    const auto next = [](int pixel, int count) {
        return std::clamp(pixel / 2 + (pixel % 2 == 0 ? -1 : 1), 0, count - 1);
    };
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const float* near = cells.row(nearest(y, cells.height));
            const float* far = cells.row(next(y, cells.height));
            const int own = 2 * nearest(x, cells.width);
            const int beside = 2 * next(x, cells.width);
            for (int c = 0; c < 2; ++c)
                out.row(y)[2 * x + c] = 0.75F * (0.75F * near[own + c] + 0.25F * near[beside + c]) +
                                        0.25F * (0.75F * far[own + c] + 0.25F * far[beside + c]);
        }
    return out;
}

/// What estimateFlow() gives, by pixels whatever it gives.
inline Vectors flowByPixels(const Image& a, const Image& b, const FlowOptions& options = {}) {
    const Vectors found = estimateFlow(a, b, options);
    Vectors out = byPixels(found, a.width(), a.height());
    if (!areByCells(found, a.width(), a.height())) return out;
    out.forward = betweenCells(found.forward, a.width(), a.height());
    out.backward = betweenCells(found.backward, a.width(), a.height());
    return out;
}

} // namespace yarngap::test
