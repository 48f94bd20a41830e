// How far vectors are to be trusted.
#pragma once

#include "core/motion/vectors.h"

#include <opencv2/core.hpp>

namespace yarngap {

struct TrustBothWays {
    TrustField forward, backward;
};

/// Trust of the vectors `forward` (CV_32FC2), which lead from picture `a` to picture `b` (CV_8U), and of
/// `backward`, which lead back. All are on samples `pixels` wide, and in these. See estimateFlow.
TrustBothWays trustOf(const cv::Mat& forward, const cv::Mat& backward, const cv::Mat& a, const cv::Mat& b,
                      int pixels = 1);

} // namespace yarngap
