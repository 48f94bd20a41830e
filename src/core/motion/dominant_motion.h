// Motions that large parts of a picture share: the camera's, and those of what moves as a whole before it.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <vector>

namespace yarngap {

/// A motion of the whole plane: x' = (h0 x + h1 y + h2) / (h6 x + h7 y + 1), y' = (h3 x + h4 y + h5) / (…).
struct PlaneMotion {
    std::array<double, 8> h{1, 0, 0, 0, 1, 0, 0, 0};
    double support = 0; ///< share of the samples asked that move so, 0 to 1

    /// Displacement at a pixel.
    [[nodiscard]] cv::Vec2f at(double x, double y) const;
    /// Displacement of every pixel, as CV_32FC2.
    [[nodiscard]] cv::Mat field(const cv::Size& size) const;
};

/// The motions that most of the trusted, textured pixels share, the most common first, at most `most`.
///
/// `flow` and `back` are vectors in both directions, CV_32FC2; `picture` is luma on the pixels of `flow`,
/// CV_8U. A motion is found as the peak of a histogram of the vectors, then fitted by iterated least squares
/// with Tukey's weights (a homography for the first, affine for those after it), and the pixels that follow
/// it are taken out before the next is looked for. A motion with less than a twentieth of the pixels is not
/// given.
std::vector<PlaneMotion> dominantMotions(const cv::Mat& flow, const cv::Mat& back, const cv::Mat& picture,
                                         int most);

} // namespace yarngap
