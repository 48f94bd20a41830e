// What test_kernels asks of the core's loops, compiled once for each form of them.

#include "core/motion/analysis_picture.h"
#include "core/motion/dense_search.h"
#include "core/motion/difference_along.h"
#include "core/motion/displacement_search.h"
#include "core/motion/guided_filter.h"
#include "core/motion/motion_trust.h"

#include <opencv2/core.hpp>

#include <cstdint>
#include <vector>

namespace yarngap {

inline cv::Mat search(const cv::Mat& from, const cv::Mat& to) {
    const SearchPicture a(from, 1);
    const SearchPicture b(to, 1);
    cv::Mat both;
    cv::vconcat(denseSearch(a, b, {}), denseSearch(a, b, {.patch = SearchOptions::largePatch, .stride = 4}),
                both);
    return both;
}

inline std::vector<std::uint8_t> trust(const cv::Mat& forward, const cv::Mat& backward, const cv::Mat& a,
                                       const cv::Mat& b) {
    const TrustBothWays found = trustOf(forward, backward, a, b);
    std::vector<std::uint8_t> out = found.forward.values;
    out.insert(out.end(), found.backward.values.begin(), found.backward.values.end());
    return out;
}

inline std::vector<std::int16_t> displacements(const cv::Mat& a, const cv::Mat& b, int reachX, int reachY) {
    const DisplacementsBothWays found = bestDisplacements(a, b, {reachX, reachY});
    std::vector<std::int16_t> out;
    for (const BestDisplacements* way : {&found.there, &found.back}) {
        out.insert(out.end(), way->cost.begin(), way->cost.end());
        out.insert(out.end(), way->place.begin(), way->place.end());
    }
    return out;
}

/// differenceAlong() in colour, from a part of a picture on.
inline cv::Mat difference(const ColouredPicture& from, const ColouredPicture& to, const cv::Mat& flow) {
    const cv::Rect part(7, 3, flow.cols, flow.rows);
    return differenceAlong(from.inside(part), to, flow, part.tl(), -1, 0.5F);
}

inline cv::Mat filtered(const cv::Mat& picture, const cv::Mat& plane) {
    constexpr int radius = 6;
    constexpr float smooth = 30;
    return GuidedFilter(picture, radius, smooth)(plane);
}

} // namespace yarngap
