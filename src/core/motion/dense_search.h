// Dense inverse search: where each pixel of a picture went, from coarse to fine.
#pragma once

#include <opencv2/core.hpp>

#include <stop_token>
#include <vector>

namespace yarngap {

/// How a search goes about it.
struct SearchOptions {
    static constexpr int smallPatch = 8;
    static constexpr int largePatch = 12;
    int patch = smallPatch; ///< side of the squares looked for, in pixels of each size; one of the two
    int stride = 3;         ///< pixels from one to the next, no more than `patch`
    float smoothness = 20;  ///< weight of it in the refinement (see refineMotion)
};

/// A picture at all sizes, ready to be searched in and for. Built once for both directions.
class SearchPicture {
  public:
    /// `picture` is CV_8U, 16 pixels each way or more. Sizes from 2^finest times smaller (as far as patches
    /// fit) to where its longer side is less than six patches.
    SearchPicture(const cv::Mat& picture, int finest);

    struct Level {
        cv::Mat picture; ///< CV_32F, in 8-bit steps, with `border` more pixels repeated on each side
        cv::Mat gradientX, gradientY; ///< CV_32F, steps per pixel
        cv::Size size;                ///< without the border
    };
    static constexpr int border = 16;

    [[nodiscard]] const std::vector<Level>& levels() const { return levels_; } ///< finest first
    [[nodiscard]] cv::Size size() const { return size_; }

  private:
    std::vector<Level> levels_;
    cv::Size size_;
};

/// `flow` (CV_32FC2, pixels) on a picture of another size, in pixels of that.
cv::Mat scaledMotion(const cv::Mat& flow, const cv::Size& size);

/// Motion from `from` to `to` (pictures of one size, built for the same `finest`), CV_32FC2 in pixels.
///
/// Kroeger, Timofte, Dai, Van Gool: Fast Optical Flow using Dense Inverse Search (2016). At each size, from
/// coarse to fine: patches look for their least squared difference, free of a change of brightness, by short
/// Gauss-Newton steps with the Hessian of the patch in `from` (inverse search), starting from the best of the
/// motion found at the coarser size and those of the patches beside (two passes, there and back; in the
/// second only what takes another's motion goes on from there); pixels take the mean of the patches over
/// them, weighed by 1 / max(1, difference); then the whole is refined (see refineMotion). The same on any
/// number of cores.
///
/// Looks at `stop` after every row of patches or pixels. Throws Cancelled.
cv::Mat denseSearch(const SearchPicture& from, const SearchPicture& to, const SearchOptions& options,
                    const std::stop_token& stop = {});

} // namespace yarngap
