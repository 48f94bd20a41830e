// A square of a picture found again in another, true to a small part of a pixel. Internal to finish/.
#pragma once

#include "core/image/picture_point.h"

#include <opencv2/core.hpp>

#include <array>
#include <cstddef>
#include <vector>

namespace yarngap {

/// Deviations by which pictures are softened, from coarse to fine, in pixels.
inline constexpr std::array<double, 3> alignmentSoftness{4, 2, 1};

/// A square around a place of a picture (CV_32F, white 255), as it is at all softnesses.
class Region {
  public:
    Region(const cv::Mat& picture, const PicturePoint& at, double reach);

    struct Sample {
        float x, y;  ///< from the middle
        float value; ///< less the mean of all
        float slopeX, slopeY;
    };
    [[nodiscard]] const std::vector<Sample>& samples(std::size_t level) const { return levels_[level]; }
    [[nodiscard]] double reach() const { return reach_; }
    [[nodiscard]] const PicturePoint& at() const { return at_; }
    /// Whether its slopes hold it in all directions.
    [[nodiscard]] bool canBeHeld() const;
    /// The picture that it was taken of.
    [[nodiscard]] const cv::Mat& picture() const { return picture_; }

  private:
    cv::Mat picture_;
    PicturePoint at_;
    double reach_;
    std::array<std::vector<Sample>, alignmentSoftness.size()> levels_;
};

/// Where a region has come to.
struct AlignedRegion {
    PicturePoint at;
    double a = 1, b = 0;    ///< size and turn: x' = a x − b y, y' = b x + a y, from the middle
    double alike = 0;       ///< normalised correlation, each sample by its weight
    double inside = 0;      ///< share of the samples that lie in the picture
    double counted = 0;     ///< share of them that agree with the rest
    double uncertainty = 0; ///< deviation of the place in its worst direction, pixels
};

/// The region aligned with a picture (CV_32F, white 255), beginning as `start` has it. See followPoint().
AlignedRegion alignedWith(const cv::Mat& picture, const Region& region, const AlignedRegion& start);

} // namespace yarngap
