// Torn lines: bands of lines that a bad transfer has pushed aside.
#pragma once

#include "core/inspection/laid_frames.h"

#include <opencv2/core.hpp>

#include <vector>

namespace yarngap {

/// Bands over the whole width that lie off both neighbours, while these agree with each other there, and that
/// fit a neighbour once they are pushed back sideways. `luma`: the frame that `a` and `b` are laid on.
/// Internal to the search for damage.
std::vector<cv::Rect> tornLines(const cv::Mat& luma, const Neighbour& a, const Neighbour& b);

} // namespace yarngap
