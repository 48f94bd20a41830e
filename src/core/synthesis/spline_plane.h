// A plane read between its samples.
#pragma once

#include "core/image/image.h"

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstring>
#include <functional>
#include <memory>

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
    /// Of width x height samples; `fill(y, row)` writes those of row y, on any thread.
    SplinePlane(int width, int height, const std::function<void(int, float*)>& fill);

    /// Four numbers side by side, as the vector unit takes them.
    using Four = float __attribute__((vector_size(16)));

    static constexpr unsigned fine = 1024; ///< places told apart between two samples

    /// Value at (x, y) in samples, from 0, to 1/1024 of a sample; places outside read the nearest edge.
    [[nodiscard]] float operator()(float x, float y) const {
        const auto at = [](float place, int last) {
            return static_cast<unsigned>(
                std::clamp(place, 0.0F, static_cast<float>(last)) * static_cast<float>(fine) + 0.5F);
        };
        return sum(parts(at(x, width_ - 1), at(y, height_ - 1)));
    }

    /// The value in four parts, of which it is the sum, so that several values can be mixed before they are
    /// summed; (x, y) in 1 / fine of a sample, inside the plane.
    [[nodiscard]] Four parts(unsigned x, unsigned y) const {
        const Four wy = weights(y % fine);
        const float* line = samplesAround(x / fine, y / fine);
        return weights(x % fine) * (wy[0] * four(line) + wy[1] * four(line + stride_) +
                                    wy[2] * four(line + 2 * stride_) + wy[3] * four(line + 3 * stride_));
    }
    [[nodiscard]] static float sum(const Four& parts) {
        return (parts[0] + parts[1]) + (parts[2] + parts[3]);
    }

    /// What parts() reads for a place past the sample (x, y): four numbers, and as many in each of the three
    /// rows `stride` further.
    [[nodiscard]] const float* samplesAround(unsigned x, unsigned y) const {
        return weights_.get() + std::size_t{y} * stride_ + x; // one up, one left
    }
    [[nodiscard]] std::size_t stride() const { return stride_; }
    /// Weights of those four for a place `f` / fine past the sample.
    [[nodiscard]] const float* weightsAt(unsigned f) const { return (*table_)[f].data(); }

  private:
    struct alignas(16) Weights : std::array<float, 4> {};
    using WeightTable = std::array<Weights, fine>;
    static Four four(const float* samples) {
        Four v;
        std::memcpy(&v, samples, sizeof v);
        return v;
    }
    [[nodiscard]] Four weights(unsigned f) const { return four(weightsAt(f)); }
    static const WeightTable& weightTable();
    [[nodiscard]] float* row(int y) {
        return weights_.get() + static_cast<std::size_t>(y + before) * stride_ + before;
    }
    [[nodiscard]] const float* row(int y) const {
        return weights_.get() + static_cast<std::size_t>(y + before) * stride_ + before;
    }
    void filterRows();
    void filterColumns();
    void mirrorEdges();

    static constexpr int before = 1; // samples mirrored at the left and the top, for reads beside the edge
    static constexpr int after = 2;
    const WeightTable* table_;
    int width_;
    int height_;
    std::size_t stride_;
    std::unique_ptr<float[]> weights_; ///< not a vector, which would set all to 0 first
};

} // namespace yarngap
