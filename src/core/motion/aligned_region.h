// The motion of a region as a whole, true to a fraction of a pixel.
#pragma once

#include "core/image/picture_point.h"

#include <opencv2/core.hpp>

#include <array>
#include <vector>

namespace yarngap {

/// From the outer corner of a pixel, from which places are counted, to its middle, where its sample lies.
inline constexpr double halfPixel = 0.5;

/// x' = h0 x + h1 y + h2, y' = h3 x + h4 y + h5, in places counted from the outer corner of the picture.
using Affine = std::array<double, 6>;
[[nodiscard]] PicturePoint moved(const Affine& h, const PicturePoint& p);

/// A pixel of a region, and how much it counts.
struct WeighedPixel {
    int x, y;
    double weight;
};

/// `h` with the small turn, growth and shift after it by which the region of `from` fits `to` best (both
/// CV_8U): Gauss-Newton on the difference of the pictures with Tukey's weights and a change of light, on
/// pictures softened by 4, then 2, then 1 pixel. It finds what is off by a few pixels, and changes nothing
/// where nothing tells.
Affine alignedRegion(const cv::Mat& from, const cv::Mat& to, const Affine& h,
                     const std::vector<WeighedPixel>& region);

} // namespace yarngap
