#include "core/motion/dense_search.h"

#include "core/motion/patch_search.h"
#include "core/motion/variational_refinement.h"
#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>

namespace yarngap {

SearchPicture::SearchPicture(const cv::Mat& picture, int finest)
    : size_(picture.size()) {
    constexpr int patch = SearchOptions::smallPatch;
    cv::Mat small = picture;
    for (int i = 0; i < finest && std::min(small.cols, small.rows) >= 2 * patch; ++i)
        cv::resize(small, small, {}, 0.5, 0.5, cv::INTER_AREA);
    // At the coarsest a patch is a sixth of the longer side or more: it would not know where it is beyond
    // that.
    for (;; cv::resize(small, small, {}, 0.5, 0.5, cv::INTER_AREA)) {
        Level level;
        level.size = small.size();
        cv::copyMakeBorder(small, level.picture, border, border, border, border, cv::BORDER_REPLICATE);
        level.picture.convertTo(level.picture, CV_32F);
        cv::Sobel(level.picture, level.gradientX, CV_32F, 1, 0, 3, 1.0 / 8);
        cv::Sobel(level.picture, level.gradientY, CV_32F, 0, 1, 3, 1.0 / 8);
        const cv::Rect inside(border, border, small.cols, small.rows);
        level.gradientX = level.gradientX(inside);
        level.gradientY = level.gradientY(inside);
        levels_.push_back(std::move(level));
        if (std::min(small.cols, small.rows) < 2 * patch || std::max(small.cols, small.rows) < 6 * patch)
            break;
    }
}

cv::Mat scaledMotion(const cv::Mat& flow, const cv::Size& size) {
    const cv::Scalar factor(static_cast<double>(size.width) / flow.cols,
                            static_cast<double>(size.height) / flow.rows);
    cv::Mat out;
    cv::resize(flow, out, size, 0, 0, cv::INTER_LINEAR);
    cv::multiply(out, factor, out);
    return out;
}

cv::Mat denseSearch(const SearchPicture& from, const SearchPicture& to, const SearchOptions& options,
                    const std::stop_token& stop) {
    SearchOptions fitting = options;
    const cv::Size finest = from.levels().front().size;
    if (std::min(finest.width, finest.height) < options.patch) fitting.patch = SearchOptions::smallPatch;
    fitting.stride = std::min(options.stride, fitting.patch);
    cv::Mat flow;
    for (std::size_t i = from.levels().size(); i-- > 0;) {
        const SearchPicture::Level& a = from.levels()[i];
        const SearchPicture::Level& b = to.levels()[i];
        if (std::min(a.size.width, a.size.height) < fitting.patch) continue;
        if (flow.empty()) {
            flow = cv::Mat::zeros(a.size, CV_32FC2);
        } else {
            flow = scaledMotion(flow, a.size);
        }
        improveByPatches(a, b, fitting, flow, stop);
        // The largest size takes most of the time, and begins with what the smaller ones found: more rounds
        // gain nothing there. Fewer at smaller sizes lose what moves far.
        constexpr int roundsBefore = 5;
        constexpr int roundsAtLast = 3;
        refineMotion(a.picture, b.picture, SearchPicture::border, flow,
                     {.smoothness = options.smoothness, .rounds = i == 0 ? roundsAtLast : roundsBefore},
                     stop);
    }
    return scaledMotion(flow, from.size());
}

} // namespace yarngap
