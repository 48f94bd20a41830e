// A frame beside its neighbours, laid on it by the camera's motion. Internal to the search for damage.
#pragma once

#include "core/image/image.h"
#include "core/inspection/camera_step.h"

#include <opencv2/core.hpp>

namespace yarngap {

/// A frame with the least and greatest values within a pixel.
struct Ranges {
    ImagePtr picture; ///< that `luma` may look at
    cv::Mat luma, least, greatest;
};

/// Of a frame at 8 bit and at most 1920 columns. The memory of `ranges` is used again.
void takeRanges(Ranges& ranges, const ImagePtr& frame);

/// The part of a rectangle that lies on a picture.
cv::Rect insideOf(const cv::Rect& rect, const cv::Size& size);

/// A neighbour, and how it is laid on the frame: `sign` is −1 for the one that `step` comes from, 1 for the
/// one it leads to.
struct Neighbour {
    const Ranges& ranges;
    const CameraStep& step;
    int sign;

    /// Where a block of the frame lies in it, whole pixels away.
    [[nodiscard]] cv::Rect blockFor(const cv::Rect& block) const;
    /// What it shows of a part of the frame; beyond its edge what lies there.
    [[nodiscard]] cv::Mat laid(const cv::Rect& part) const;
};

/// By how much each sample lies outside of both neighbours' ranges, on the same side; 0 where one of them
/// does not show the place.
void outsideOf(const cv::Mat& luma, const Neighbour& a, const Neighbour& b, cv::Mat& outside);

} // namespace yarngap
