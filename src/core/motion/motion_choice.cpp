#include "core/motion/motion_choice.h"

#include "core/motion/difference_along.h"
#include "core/motion/flow_estimator.h"
#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

namespace yarngap {

namespace {

/// Averages planes with a picture as guide.
class GuidedFilter {
  public:
    GuidedFilter(const cv::Mat& picture, int radius, float smooth)
        : window_(2 * radius + 1, 2 * radius + 1) {
        picture.convertTo(guide_, CV_32F);
        mean_ = box(guide_);
        spread_ = box(guide_.mul(guide_)) - mean_.mul(mean_) + smooth;
    }
    [[nodiscard]] cv::Mat operator()(const cv::Mat& plane) const {
        const cv::Mat average = box(plane);
        cv::Mat slope = box(guide_.mul(plane)) - mean_.mul(average);
        cv::divide(slope, spread_, slope);
        const cv::Mat offset = average - slope.mul(mean_);
        return box(slope).mul(guide_) + box(offset);
    }

  private:
    [[nodiscard]] cv::Mat box(const cv::Mat& plane) const {
        cv::Mat out;
        cv::boxFilter(plane, out, CV_32F, window_, {-1, -1}, true, cv::BORDER_REFLECT);
        return out;
    }
    cv::Size window_;
    cv::Mat guide_, mean_, spread_;
};

} // namespace

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
        costs[i] = filter(difference) - candidates[i].favour;
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
        for (int x = 0; x < from.luma.cols; ++x) {
            std::size_t best = 0;
            for (std::size_t i = 1; i < candidates.size(); ++i)
                if (costs[i].at<float>(y, x) < costs[best].at<float>(y, x)) best = i;
            out[x] = candidates[best].flow.at<cv::Vec2f>(y, x);
        }
    });
    return chosen;
}

} // namespace yarngap
