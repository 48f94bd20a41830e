// How the motion that most of a picture shares changes from one gap to the next.
#pragma once

#include "core/motion/analysis_picture.h"
#include "core/motion/vectors.h"

#include <opencv2/core.hpp>

#include <array>

namespace yarngap {

/// By how much what most of a frame shows moves otherwise in the gap after it than in the one before it: a
/// camera that shakes, or pans faster and faster. All zeros: it goes on as it did.
///
/// Of a point at p(−1), p(0) and p(1) in the frame before, this one and the one after, that is the second
/// difference p(1) − 2 p(0) + p(−1): its vector onward and its vector away, added up. What moves by itself
/// before the camera has its own on top, and goes on by it as everything does.
class SharedChange {
  public:
    SharedChange() = default;

    /// Of the frame whose vectors lead `onward` and `away`, each on its pixels and as large as the other. An
    /// affine field is fitted to every eighth pixel each way with trust of a quarter or more in both
    /// directions (iterated least squares, Cauchy's weights, whose width narrows from 16 pixels to 1). Fewer
    /// than 100 such pixels tell nothing, and vectors that are no numbers, or longer than 10 000 pixels, do
    /// not count.
    SharedChange(const VectorField& onward, const TrustField& onwardTrust, const VectorField& away,
                 const TrustField& awayTrust);

    /// Whether it is less than a quarter of a pixel everywhere.
    [[nodiscard]] bool isSlight() const;
    /// In pixels, at a pixel.
    [[nodiscard]] cv::Vec2f at(double x, double y) const;

    /// The picture beyond as it would look if everything had moved on the way to it as it does onward: where
    /// a vector onward, turned round, leads in it, the point is seen. Itself where the change is slight.
    [[nodiscard]] ColouredPicture evenedOut(const ColouredPicture& beyond) const;

  private:
    int width_ = 0, height_ = 0;
    std::array<cv::Vec3d, 2> parts_{}; ///< x and y, each of (1, right, down) in halves of the width
};

} // namespace yarngap
