// Estimated motion as vectors, rounded as they are kept.
#pragma once

#include "core/motion/vectors.h"

#include <opencv2/core.hpp>

#include <stop_token>

namespace yarngap {

/// `flow` (CV_32FC2) in pixels of the picture, of which each of its own samples takes `pixels`, rounded to
/// half floats.
VectorField toField(const cv::Mat& flow, int pixels);

/// Motion of both directions, in samples `pixels` wide of the pictures `a` and `b` (CV_8U), as vectors with
/// their trust. Throws Cancelled.
Vectors toVectors(const cv::Mat& forward, const cv::Mat& backward, const cv::Mat& a, const cv::Mat& b,
                  int pixels, const std::stop_token& stop = {});

} // namespace yarngap
