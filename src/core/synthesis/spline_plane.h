// A plane read between its samples.
#pragma once

#include "core/image/image.h"

#include <cstddef>
#include <vector>

namespace yarngap {

/// One plane of a picture as the cubic spline through its samples, mirrored at its edges.
///
/// The spline is held as weights of cubic B-splines, found by recursive filtering (Unser, Splines: a perfect fit
/// for signal and image processing, 1999; Thévenaz, Blu, Unser: Interpolation revisited, 2000). It takes as many
/// samples to read as Catmull-Rom's, keeps fine texture far better when pixels move by a part of a pixel, and
/// still is the sample itself where one lies.
///
///     const SplinePlane luma(frame, 0);
///     const float between = luma(12.5F, 40.25F);
class SplinePlane {
  public:
    SplinePlane(const Image& image, int p);

    /// Value at (x, y) in samples, from 0; places outside read the nearest edge.
    [[nodiscard]] float operator()(float x, float y) const;
    /// 1 inside, falling to 0 within a sample outside the edge.
    [[nodiscard]] float inside(float x, float y) const;

  private:
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
