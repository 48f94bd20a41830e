// How far vectors are to be trusted.
#pragma once

#include "core/motion/vectors.h"

#include <opencv2/core.hpp>

namespace yarngap {

/// Trust of the vectors `own` (CV_32FC2), which lead from picture `from` to picture `to` (CV_8U); `back` are
/// those that lead back. See estimateFlow.
TrustField trustOf(const cv::Mat& own, const cv::Mat& back, const cv::Mat& from, const cv::Mat& to);

} // namespace yarngap
