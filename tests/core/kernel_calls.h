// What test_kernels asks of the core's loops, compiled once for each form of them.

#include "core/image/image.h"
#include "core/image/sample_rows.h"
#include "core/motion/analysis_picture.h"
#include "core/motion/dense_search.h"
#include "core/motion/difference_along.h"
#include "core/motion/displacement_search.h"
#include "core/motion/guided_filter.h"
#include "core/motion/motion_trust.h"
#include "core/motion/row_along.h"
#include "core/motion/semi_global_choice.h"
#include "core/synthesis/plane_cells.h"
#include "core/synthesis/plane_pair.h"

#include <opencv2/core.hpp>

#include <algorithm>
#include <array>
#include <cstdint>
#include <span>
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

/// Both pictures of bytes read along motions, one for each cell of 2 x 2, some of which a seam keeps apart:
/// what they show mixed, what either shows, and the mixed as bytes.
inline std::vector<float> moved(const cv::Mat& a, const cv::Mat& b, const cv::Mat& motions, float phase) {
    const auto pictureOf = [](const cv::Mat& from) {
        constexpr PixelLayout grey{.model = ColourModel::grey};
        Image out(from.cols, from.rows, grey);
        for (int y = 0; y < from.rows; ++y)
            std::copy_n(from.ptr<std::uint8_t>(y), from.cols, out.row<std::uint8_t>(0, y).begin());
        return out;
    };
    const Image one = pictureOf(a);
    const Image other = pictureOf(b);
    MidMotion mid{motions.cols, motions.rows, {}, {}, {}};
    for (int i = 0; i < static_cast<int>(motions.total()); ++i) {
        const auto v = motions.at<cv::Vec2f>(i / motions.cols, i % motions.cols);
        mid.cells.push_back({v[0], v[1], static_cast<float>(i % 11) * 0.1F, 0});
        mid.seams.push_back(static_cast<std::uint8_t>(i % 7 == 0   ? MidMotion::seamAfter
                                                      : i % 5 == 0 ? MidMotion::seamBelow
                                                                   : 0));
    }
    const PlaneCells cells(mid, one, 0);
    const PlanePair pair(one, other, phase, 0);
    const auto n = static_cast<std::size_t>(a.cols);
    std::vector<MidCell> line;
    std::vector<PlanePair::Places> places(n);
    std::vector<float> values(4 * n);
    std::vector<std::uint8_t> bytes(n);
    std::vector<float> out;
    for (int y = 0; y < a.rows; ++y) {
        cells.row(y, line);
        pair.follow(line, y % 2 == 0 ? std::span<const MidCell>() : line, 0, y, places.data());
        for (std::size_t x = 0; x < n; ++x)
            values[x] = line[x].shareB;
        pair.readMixed(places.data(), values.data(), n, values.data() + n);
        pair.readBoth(places.data(), n, values.data() + 2 * n, values.data() + 3 * n);
        putSamples(values.data() + n, n, 255, bytes.data());
        out.insert(out.end(), values.begin(), values.end());
        out.insert(out.end(), bytes.begin(), bytes.end());
    }
    return out;
}

/// The choice among motions (8-bit numbers of `x` and `y`, planes for each motion below each other) that cost
/// what `costs` says, judged in three ways; way after way.
inline std::vector<std::uint8_t> choice(const cv::Mat& x, const cv::Mat& y, const cv::Mat& costs,
                                        const cv::Mat& picture) {
    CellMotions motions(picture.cols, picture.rows);
    const int motionsOfCell = x.rows / picture.rows;
    std::vector<CellMotions::Eight> other = motions.cost;
    for (int i = 0; i < static_cast<int>(motions.cost.size()); ++i)
        for (int m = 0; m < motionsOfCell; ++m) {
            const cv::Point at(i % picture.cols, m * picture.rows + i / picture.cols);
            const auto cell = static_cast<std::size_t>(i);
            CellMotions::set(motions.x[cell], m, static_cast<float>(x.at<std::uint8_t>(at)) * 0.1F);
            CellMotions::set(motions.y[cell], m, static_cast<float>(y.at<std::uint8_t>(at)) * 0.07F);
            CellMotions::set(motions.cost[cell], m, static_cast<float>(costs.at<std::uint8_t>(at)) * 0.2F);
            CellMotions::set(other[cell], m, static_cast<float>(x.at<std::uint8_t>(at)) * 0.2F);
        }
    const std::array ways{CellCosts{motions.cost}, CellCosts{motions.cost, 5}, CellCosts{other, -3}};
    std::vector<std::uint8_t> out;
    for (const std::vector<std::uint8_t>& way : chooseSemiGlobally(motions, ways, {picture}))
        out.insert(out.end(), way.begin(), way.end());
    return out;
}

inline cv::Mat filtered(const cv::Mat& picture, const cv::Mat& plane) {
    constexpr int radius = 6;
    constexpr float smooth = 30;
    return GuidedFilter(picture, radius, smooth)(plane);
}

} // namespace yarngap
