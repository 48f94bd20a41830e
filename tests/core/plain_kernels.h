// The core's loops compiled without the widest instructions, to be compared with those that use them. See
// kernel_calls.h.
#pragma once

#include <opencv2/core.hpp>

#include <cstdint>
#include <vector>

namespace plain_kernels {

/// denseSearch() with small patches, and below with large ones.
cv::Mat search(const cv::Mat& from, const cv::Mat& to);
/// trustOf(): forward, then backward.
std::vector<std::uint8_t> trust(const cv::Mat& forward, const cv::Mat& backward, const cv::Mat& a,
                                const cv::Mat& b);
/// bestDisplacements(): costs and places there, then back.
std::vector<std::int16_t> displacements(const cv::Mat& a, const cv::Mat& b, int reachX, int reachY);
/// differenceAlong() in colour, of luma and colour of both.
cv::Mat difference(const cv::Mat& lumaA, const cv::Mat& colourA, const cv::Mat& lumaB, const cv::Mat& colourB,
                   const cv::Mat& flow);
/// PlaneCells, PlanePair and putSamples().
std::vector<float> moved(const cv::Mat& a, const cv::Mat& b, const cv::Mat& motions, float phase);
/// chooseSemiGlobally().
std::vector<std::uint8_t> choice(const cv::Mat& x, const cv::Mat& y, const cv::Mat& costs,
                                 const cv::Mat& picture);
/// GuidedFilter.
cv::Mat filtered(const cv::Mat& picture, const cv::Mat& plane);

} // namespace plain_kernels
