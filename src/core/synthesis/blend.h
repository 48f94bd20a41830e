// Frame blending: weighted means of source frames.
#pragma once

#include "core/image/image.h"

#include <vector>

namespace yarngap {

/// A weighted mean, built up frame by frame, so that a blend over a thousand frames needs the memory of one.
///
///     BlendSum sum;
///     sum.add(*a, 0.25);
///     sum.add(*b, 0.75);
///     Image mean = sum.mean();
class BlendSum {
  public:
    /// The shares of all frames must add up to 1. Throws Error when the frame has another size or layout
    /// than the ones before.
    void add(const Image& frame, double share);
    /// The mean, rounded to the nearest sample value, halves upwards.
    [[nodiscard]] Image mean() const;

  private:
    int width_ = 0;
    int height_ = 0;
    PixelLayout layout_;
    std::vector<std::vector<float>> planes_; // samples without padding
};

} // namespace yarngap
