#include "core/motion/difference_along.h"

#include "core/widest.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cstdint>
#include <cstdlib>

namespace yarngap {

namespace {

constexpr float mostDifference = 40;

YARNGAP_WIDEST void placesAlong(const float* v, int n, float left, float top, float sign, float* places) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        places[2 * x] = left + static_cast<float>(x) + sign * v[2 * x];
        places[2 * x + 1] = top + sign * v[2 * x + 1];
    }
}

YARNGAP_WIDEST void differencesOfLuma(const std::uint8_t* a, const std::uint8_t* b, int n, float* cost) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x)
        cost[x] = std::min(mostDifference, static_cast<float>(std::abs(a[x] - b[x])));
}

/// Cut off for itself, lest a change of tint hide what luma tells.
YARNGAP_WIDEST void addDifferencesOfColour(const std::uint8_t* a, const std::uint8_t* b, int n, float part,
                                           float* cost) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        const int apart = std::abs(a[2 * x] - b[2 * x]) + std::abs(a[2 * x + 1] - b[2 * x + 1]);
        cost[x] += std::min(mostDifference, part * static_cast<float>(apart));
    }
}

YARNGAP_WIDEST void leaveOut(const float* places, int n, float right, float bottom, float* cost) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        const float px = places[2 * x];
        const float py = places[2 * x + 1];
        const bool inside = (px >= 0) & (py >= 0) & (px <= right) & (py <= bottom);
        cost[x] = inside ? cost[x] : mostDifference / 2;
    }
}

} // namespace

cv::Mat differenceAlong(const ColouredPicture& from, const ColouredPicture& to, const cv::Mat& flow,
                        const cv::Point& origin, float sign, float colourPart) {
    cv::Mat map(flow.size(), CV_32FC2);
    for (int y = 0; y < flow.rows; ++y)
        placesAlong(flow.ptr<float>(y), flow.cols, static_cast<float>(origin.x),
                    static_cast<float>(origin.y + y), sign, map.ptr<float>(y));
    const auto moved = [&map](const cv::Mat& picture) {
        cv::Mat out;
        cv::remap(picture, out, map, {}, cv::INTER_LINEAR, cv::BORDER_REPLICATE);
        return out;
    };
    const bool inColour = !from.colour.empty() && !to.colour.empty();
    const cv::Mat there = moved(to.luma);
    const cv::Mat colourThere = inColour ? moved(to.colour) : cv::Mat();
    cv::Mat cost(flow.size(), CV_32F);
    const auto right = static_cast<float>(to.luma.cols - 1);
    const auto bottom = static_cast<float>(to.luma.rows - 1);
    for (int y = 0; y < flow.rows; ++y) {
        auto* c = cost.ptr<float>(y);
        differencesOfLuma(from.luma.ptr<std::uint8_t>(y), there.ptr<std::uint8_t>(y), flow.cols, c);
        if (inColour)
            addDifferencesOfColour(from.colour.ptr<std::uint8_t>(y), colourThere.ptr<std::uint8_t>(y),
                                   flow.cols, colourPart, c);
        leaveOut(map.ptr<float>(y), flow.cols, right, bottom, c);
    }
    return cost;
}

} // namespace yarngap
