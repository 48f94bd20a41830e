#include "core/motion/difference_along.h"

#include "core/motion/row_along.h"
#include "core/widest.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstdint>
#include <cstdlib>
#include <vector>

namespace yarngap {

namespace {

constexpr float mostDifference = 40;

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

YARNGAP_WIDEST void leaveOut(const std::uint8_t* inside, int n, float* cost) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x)
        cost[x] = inside[x] != 0 ? cost[x] : mostDifference / 2;
}

cv::Mat asOnePiece(const cv::Mat& picture) {
    return picture.isContinuous() ? picture : picture.clone();
}

} // namespace

cv::Mat differenceAlong(const ColouredPicture& from, const ColouredPicture& to, const cv::Mat& flow,
                        const cv::Point& origin, float sign, float colourPart) {
    const bool inColour = !from.colour.empty() && !to.colour.empty();
    const cv::Mat luma = asOnePiece(to.luma);
    const cv::Mat colour = inColour ? asOnePiece(to.colour) : cv::Mat();
    cv::Mat cost(flow.size(), CV_32F);
    tbb::parallel_for(tbb::blocked_range<int>(0, flow.rows, 16), [&](const tbb::blocked_range<int>& rows) {
        RowAlong along(flow.cols);
        std::vector<std::uint8_t> there(2 * static_cast<std::size_t>(flow.cols));
        for (int y = rows.begin(); y < rows.end(); ++y) {
            auto* c = cost.ptr<float>(y);
            along.follow(flow.ptr<float>(y), static_cast<float>(origin.x), static_cast<float>(origin.y + y),
                         sign, luma.size());
            along.read(luma, there.data());
            differencesOfLuma(from.luma.ptr<std::uint8_t>(y), there.data(), flow.cols, c);
            if (inColour) {
                along.read(colour, there.data());
                addDifferencesOfColour(from.colour.ptr<std::uint8_t>(y), there.data(), flow.cols, colourPart,
                                       c);
            }
            leaveOut(along.inside(), flow.cols, c);
        }
    });
    return cost;
}

} // namespace yarngap
