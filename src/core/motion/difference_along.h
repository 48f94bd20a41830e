// How unlike two pictures are along a motion.
#pragma once

#include "core/motion/analysis_picture.h"

#include <opencv2/core.hpp>

namespace yarngap {

/// Difference of each pixel of `from` to the place in `to` where `sign` times `flow` (CV_32FC2) leads, in
/// 8-bit steps, CV_32F: that of luma cut off at 40, and where both pictures have colour, that of both its
/// parts, taken `colourPart` times, cut off likewise and added. 20 where the place is outside the picture.
/// `from` may be a part of its picture, which begins at `origin`.
cv::Mat differenceAlong(const ColouredPicture& from, const ColouredPicture& to, const cv::Mat& flow,
                        const cv::Point& origin = {}, float sign = 1, float colourPart = 1);

} // namespace yarngap
