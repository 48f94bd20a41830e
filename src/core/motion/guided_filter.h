// Means that stop at outlines.
#pragma once

#include <opencv2/core.hpp>

#include <vector>

namespace yarngap {

/// He, Sun, Tang: Guided Image Filtering (2010). Averages planes with a picture as guide: over squares of 2
/// radius + 1 pixels, mirrored at the edge, but not across outlines, which is contrast above `smooth` steps
/// squared.
class GuidedFilter {
  public:
    /// `picture` is CV_8U.
    GuidedFilter(const cv::Mat& picture, int radius, float smooth);

    /// `plane` is CV_32F, as large as the picture. The same bits on any number of cores.
    [[nodiscard]] cv::Mat operator()(const cv::Mat& plane) const;

  private:
    int radius_;
    cv::Mat guide_;          ///< CV_8U
    cv::Mat mean_, inverse_; ///< of the guide: mean; 1 / (variance + smooth)
};

} // namespace yarngap
