// Bytes of a picture read where a row of motions leads.
#pragma once

#include <opencv2/core.hpp>

#include <cstdint>
#include <vector>

namespace yarngap {

/// Reads between the samples by bilinear interpolation, to 1/32 of a sample; what leads outside reads the
/// nearest edge.
///
///     RowAlong row(flow.cols);
///     row.follow(flow.ptr<float>(y), 0, y, 1, picture.size());
///     row.read(picture, bytes);
class RowAlong {
  public:
    /// For rows of n motions.
    explicit RowAlong(int n);

    /// Where sign times the motions (x y x y …) lead from the row that begins at (left, top), in a picture of
    /// this size, which is at least 2 x 2.
    void follow(const float* motions, float left, float top, float sign, const cv::Size& size);

    /// What is there in `picture`, CV_8U or CV_8UC2, continuous and of the size that was followed: n bytes,
    /// or 2 n.
    void read(const cv::Mat& picture, std::uint8_t* out);

    /// Of each place, 255 inside the picture and 0 outside.
    [[nodiscard]] const std::uint8_t* inside() const { return inside_.data(); }

  private:
    std::vector<std::int32_t> at_;             ///< sample above and left, counted through the picture
    std::vector<std::int32_t> right_, down_;   ///< beyond it, in 1/32
    std::vector<std::uint32_t> above_, below_; ///< bytes from there on
    std::vector<std::uint8_t> inside_;
};

/// `picture` (CV_8U or CV_8UC2) where sign times `flow` (CV_32FC2) leads from places that
/// begin at `origin`.
cv::Mat pictureAlong(const cv::Mat& picture, const cv::Mat& flow, const cv::Point& origin, float sign);

} // namespace yarngap
