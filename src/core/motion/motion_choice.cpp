#include "core/motion/motion_choice.h"

#include "core/motion/difference_along.h"
#include "core/motion/flow_estimator.h"
#include "core/motion/guided_filter.h"
#include "core/progress.h"

#include <tbb/parallel_for.h>

namespace yarngap {

cv::Mat chooseMotion(const ColouredPicture& from, const ColouredPicture& to,
                     const std::vector<Candidate>& candidates, const cv::Point& origin,
                     const std::stop_token& stop, const OtherSide& other) {
    constexpr int radius = 6;
    constexpr float smooth = 30; // of 8-bit steps squared: contrast that counts as an outline
    const GuidedFilter filter(from.luma, radius, smooth);
    throwIfStopped(stop);
    std::vector<cv::Mat> costs(candidates.size());
    const auto judge = [&](std::size_t i) {
        cv::Mat difference = differenceAlong(from, to, candidates[i].flow, origin);
        if (!other.picture.luma.empty() && !stop.stop_requested())
            cv::min(difference,
                    differenceAlong(from, other.picture, candidates[i].flow, origin, -1) + other.dearer,
                    difference);
        if (stop.stop_requested()) return;
        costs[i] = filter(difference);
        costs[i] -= candidates[i].favour;
        if (!candidates[i].favourHere.empty()) costs[i] -= candidates[i].favourHere;
    };
    if (isLarge(from.luma.cols, from.luma.rows)) // one at a time, which takes half the memory
        for (std::size_t i = 0; i < candidates.size(); ++i)
            judge(i);
    else
        tbb::parallel_for(std::size_t{0}, candidates.size(), judge);
    throwIfStopped(stop);
    cv::Mat chosen(from.luma.size(), CV_32FC2);
    tbb::parallel_for(0, from.luma.rows, [&](int y) {
        auto* out = chosen.ptr<cv::Vec2f>(y);
        std::copy_n(candidates.front().flow.ptr<cv::Vec2f>(y), from.luma.cols, out);
        auto* least = costs.front().ptr<float>(y);
        for (std::size_t i = 1; i < candidates.size(); ++i) {
            const auto* cost = costs[i].ptr<float>(y);
            const auto* flow = candidates[i].flow.ptr<cv::Vec2f>(y);
            for (int x = 0; x < from.luma.cols; ++x)
                if (cost[x] < least[x]) {
                    least[x] = cost[x];
                    out[x] = flow[x];
                }
        }
    });
    return chosen;
}

} // namespace yarngap
