#include "core/synthesis/stand_in.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>

namespace yarngap {

std::vector<float> standInWeights(const MidMotion& mid, int limitPercent) {
    std::vector<float> weights = mid.trust;
    cv::Mat plane(mid.height, mid.width, CV_32F, weights.data());
    const int window = std::max(9, mid.width / 60) | 1;
    for (int pass = 0; pass < 2; ++pass)
        cv::blur(plane, plane, {window, window}, {-1, -1}, cv::BORDER_REFLECT);
    constexpr float reach = 0.15F;
    const float limit = static_cast<float>(limitPercent) / 100;
    for (float& w : weights) {
        const float s = std::clamp((w - limit + reach) / (2 * reach), 0.0F, 1.0F);
        w = 1 - s * s * (3 - 2 * s);
    }
    return weights;
}

} // namespace yarngap
