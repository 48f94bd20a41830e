// A plane read between its samples.
#pragma once

#include "core/image/image.h"

#include <algorithm>
#include <cstddef>
#include <cstring>
#include <vector>

namespace yarngap {

/// One plane of a picture as the cubic spline through its samples, mirrored at its edges.
///
/// The spline is held as weights of cubic B-splines, found by recursive filtering (Unser, Splines: a perfect
/// fit for signal and image processing, 1999; Thévenaz, Blu, Unser: Interpolation revisited, 2000). It takes
/// as many samples to read as Catmull-Rom's, keeps fine texture far better when pixels move by a part of a
/// pixel, and still is the sample itself where one lies.
///
///     const SplinePlane luma(frame, 0);
///     const float between = luma(12.5F, 40.25F);
class SplinePlane {
  public:
    SplinePlane(const Image& image, int p);

    /// Value at (x, y) in samples, from 0; places outside read the nearest edge.
    [[nodiscard]] float operator()(float x, float y) const {
        const float cx = std::clamp(x, 0.0F, static_cast<float>(width_ - 1));
        const float cy = std::clamp(y, 0.0F, static_cast<float>(height_ - 1));
        const int ix = static_cast<int>(cx);
        const int iy = static_cast<int>(cy);
        const Four wy = weightsAt(cy - static_cast<float>(iy));
        const float* line = row(iy - 1) + ix - 1;
        Four columns = wy[0] * four(line) + wy[1] * four(line + stride_) + wy[2] * four(line + 2 * stride_) +
                       wy[3] * four(line + 3 * stride_);
        columns *= weightsAt(cx - static_cast<float>(ix));
        return (columns[0] + columns[1]) + (columns[2] + columns[3]);
    }

  private:
    /// Four samples side by side, as the vector unit takes them.
    using Four = float __attribute__((vector_size(16)));
    static Four four(const float* samples) {
        Four v;
        std::memcpy(&v, samples, sizeof v);
        return v;
    }
    /// Cubic B-spline weights of the four samples around a place `f` (0 ≤ f < 1) past the second one.
    static Four weightsAt(float f) {
        constexpr Four cubes{-1 / 6.0F, 3 / 6.0F, -3 / 6.0F, 1 / 6.0F};
        constexpr Four squares{3 / 6.0F, -6 / 6.0F, 3 / 6.0F, 0};
        constexpr Four firsts{-3 / 6.0F, 0, 3 / 6.0F, 0};
        constexpr Four atSample{1 / 6.0F, 4 / 6.0F, 1 / 6.0F, 0};
        return ((cubes * f + squares) * f + firsts) * f + atSample;
    }
    [[nodiscard]] float* row(int y) {
        return weights_.data() + static_cast<std::size_t>(y + before) * stride_ + before;
    }
    [[nodiscard]] const float* row(int y) const {
        return weights_.data() + static_cast<std::size_t>(y + before) * stride_ + before;
    }
    void filterRows();
    void filterColumns();
    void mirrorEdges();

    static constexpr int before = 1; // samples mirrored at the left and the top, for reads beside the edge
    static constexpr int after = 2;
    int width_;
    int height_;
    std::size_t stride_;
    std::vector<float> weights_;
};

} // namespace yarngap
