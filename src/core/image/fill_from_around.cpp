#include "core/image/fill_from_around.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cstddef>
#include <vector>

namespace yarngap {

void fillFromAround(cv::Mat& values, const cv::Mat& known) {
    std::vector<cv::Mat> sums{values.mul(known)};
    std::vector<cv::Mat> weights{known};
    // Down to a single sample, so that no place is without a mean however little is known.
    while (std::max(sums.back().cols, sums.back().rows) > 1) {
        cv::Mat sum;
        cv::Mat weight;
        cv::pyrDown(sums.back(), sum);
        cv::pyrDown(weights.back(), weight);
        sums.push_back(sum);
        weights.push_back(weight);
    }
    cv::Mat coarse;
    for (std::size_t level = sums.size(); level-- > 1;) {
        cv::Mat& sum = sums[level];
        const cv::Mat& weight = weights[level];
        cv::Mat larger;
        if (!coarse.empty()) cv::pyrUp(coarse, larger, sum.size());
        for (int y = 0; y < sum.rows; ++y) {
            auto* s = sum.ptr<float>(y);
            const auto* w = weight.ptr<float>(y);
            const auto* c = larger.empty() ? nullptr : larger.ptr<float>(y);
            for (int x = 0; x < sum.cols; ++x) {
                const float mean = w[x] > 0 ? s[x] / w[x] : 0;
                const float sure = c ? std::min(1.0F, w[x] * 2) : 1.0F;
                s[x] = sure * mean + (c ? (1 - sure) * c[x] : 0);
            }
        }
        coarse = sum;
    }
    if (coarse.empty()) return; // a picture of one pixel
    cv::Mat larger;
    cv::pyrUp(coarse, larger, values.size());
    larger.copyTo(values, known == 0);
}

} // namespace yarngap
