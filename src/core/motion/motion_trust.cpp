#include "core/motion/motion_trust.h"

#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <cmath>

namespace yarngap {

TrustField trustOf(const cv::Mat& own, const cv::Mat& back, const cv::Mat& from, const cv::Mat& to) {
    const int w = own.cols;
    const int h = own.rows;
    cv::Mat fromMean;
    cv::Mat toMean;
    cv::blur(from, fromMean, {3, 3});
    cv::blur(to, toMean, {3, 3});
    TrustField trust{w, h, {}};
    trust.values.resize(static_cast<std::size_t>(w) * static_cast<std::size_t>(h));
    tbb::parallel_for(0, h, [&](int y) {
        const auto* v = own.ptr<cv::Vec2f>(y);
        std::uint8_t* out = trust.row(y);
        for (int x = 0; x < w; ++x) {
            const float tx = static_cast<float>(x) + v[x][0];
            const float ty = static_cast<float>(y) + v[x][1];
            if (!(tx >= -0.5F && ty >= -0.5F && tx < static_cast<float>(w) - 0.5F &&
                  ty < static_cast<float>(h) - 0.5F)) {
                out[x] = 0;
                continue;
            }
            const int ix = static_cast<int>(tx + 0.5F);
            const int iy = static_cast<int>(ty + 0.5F);
            const cv::Vec2f& r = back.at<cv::Vec2f>(iy, ix);
            const float ex = v[x][0] + r[0];
            const float ey = v[x][1] + r[1];
            const float speed = std::sqrt(v[x][0] * v[x][0] + v[x][1] * v[x][1]);
            const float s = 0.5F + 0.05F * speed;
            const float d = static_cast<float>(fromMean.at<std::uint8_t>(y, x)) -
                            static_cast<float>(toMean.at<std::uint8_t>(iy, ix));
            const float e2 = (ex * ex + ey * ey) / (s * s) + d * d / (24.0F * 24.0F);
            out[x] = static_cast<std::uint8_t>(255.0F * std::exp(-e2) + 0.5F);
        }
    });
    return trust;
}

} // namespace yarngap
