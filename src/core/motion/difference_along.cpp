#include "core/motion/difference_along.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cstdint>
#include <cstdlib>

namespace yarngap {

namespace {

constexpr float mostDifference = 40;

} // namespace

cv::Mat differenceAlong(const ColouredPicture& from, const ColouredPicture& to, const cv::Mat& flow,
                        const cv::Point& origin, float sign, float colourPart) {
    cv::Mat map(flow.size(), CV_32FC2);
    for (int y = 0; y < flow.rows; ++y) {
        const auto* v = flow.ptr<cv::Vec2f>(y);
        auto* m = map.ptr<cv::Vec2f>(y);
        for (int x = 0; x < flow.cols; ++x)
            m[x] = {static_cast<float>(origin.x + x) + sign * v[x][0],
                    static_cast<float>(origin.y + y) + sign * v[x][1]};
    }
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
        const auto* a = from.luma.ptr<std::uint8_t>(y);
        const auto* b = there.ptr<std::uint8_t>(y);
        const auto* colourA = inColour ? from.colour.ptr<cv::Vec2b>(y) : nullptr;
        const auto* colourB = inColour ? colourThere.ptr<cv::Vec2b>(y) : nullptr;
        const auto* m = map.ptr<cv::Vec2f>(y);
        auto* c = cost.ptr<float>(y);
        for (int x = 0; x < flow.cols; ++x) {
            const bool inside = m[x][0] >= 0 && m[x][1] >= 0 && m[x][0] <= right && m[x][1] <= bottom;
            if (!inside) {
                c[x] = mostDifference / 2;
                continue;
            }
            c[x] = std::min(mostDifference, static_cast<float>(std::abs(a[x] - b[x])));
            if (inColour) // cut off for itself, lest a change of tint hide what luma tells
                c[x] += std::min(mostDifference,
                                 colourPart * static_cast<float>(std::abs(colourA[x][0] - colourB[x][0]) +
                                                                 std::abs(colourA[x][1] - colourB[x][1])));
        }
    }
    return cost;
}

} // namespace yarngap
