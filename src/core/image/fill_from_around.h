// Values where none are known, from those around.
#pragma once

#include <opencv2/core.hpp>

namespace yarngap {

/// Fills `values` (CV_32F) where `known` (CV_32F, 0 or 1) is 0, smoothly from what is known around, however
/// far that is: a pyramid of means (pull and push; Gortler, Grzeszczuk, Szeliski, Cohen: The lumigraph,
/// 1996).
void fillFromAround(cv::Mat& values, const cv::Mat& known);

} // namespace yarngap
