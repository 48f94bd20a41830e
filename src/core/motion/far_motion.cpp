#include "core/motion/far_motion.h"

#include "core/motion/displacement_search.h"
#include "core/motion/row_along.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <vector>

namespace yarngap {

namespace {

constexpr int cellsAcross = 160;
constexpr double middle = 128;
constexpr int enough = 9; // cells that are not chance

/// A picture of cells, less the mean of its neighbourhood.
cv::Mat meansInCells(const cv::Mat& picture, const cv::Size& size) {
    cv::Mat small;
    cv::resize(picture, small, size, 0, 0, cv::INTER_AREA);
    cv::Mat wide;
    cv::blur(small, wide, {21, 21});
    cv::Mat out;
    cv::addWeighted(small, 1, wide, -1, middle, out);
    return out;
}

/// Sum over the window of the cut-off difference; changes `difference`.
void summed(cv::Mat& difference, cv::Mat& out) {
    cv::min(difference, mostCellDifference, difference);
    cv::boxFilter(difference, out, CV_16U, {displacementWindow, displacementWindow}, {-1, -1}, false,
                  cv::BORDER_REFLECT);
}

/// Summed difference along `flow`, which is in cells.
cv::Mat costAlong(const cv::Mat& a, const cv::Mat& b, const cv::Mat& flow) {
    const cv::Mat moved = pictureAlong(b, flow, {}, 1);
    cv::Mat difference;
    cv::absdiff(a, moved, difference);
    cv::Mat out;
    summed(difference, out);
    return out;
}

/// Leaves of `mask` only patches of cells that move alike and are large enough not to be chance.
void keepAlike(cv::Mat& mask, const BestDisplacements& own, const DisplacementReach& reach) {
    cv::Mat left = mask.clone();
    std::vector<cv::Point> patch;
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x) {
            if (left.at<std::uint8_t>(y, x) == 0) continue;
            patch.assign(1, {x, y});
            left.at<std::uint8_t>(y, x) = 0;
            for (std::size_t i = 0; i < patch.size(); ++i) {
                const cv::Point at = patch[i];
                const cv::Point d = reach.of(own.placeAt(at.x, at.y));
                for (int j = std::max(0, at.y - 1); j <= std::min(mask.rows - 1, at.y + 1); ++j)
                    for (int k = std::max(0, at.x - 1); k <= std::min(mask.cols - 1, at.x + 1); ++k) {
                        const cv::Point e = reach.of(own.placeAt(k, j));
                        if (left.at<std::uint8_t>(j, k) == 0 || std::abs(d.x - e.x) > 1 ||
                            std::abs(d.y - e.y) > 1)
                            continue;
                        left.at<std::uint8_t>(j, k) = 0;
                        patch.emplace_back(k, j);
                    }
            }
            if (patch.size() < static_cast<std::size_t>(enough))
                for (const cv::Point& at : patch)
                    mask.at<std::uint8_t>(at) = 0;
        }
}

/// One direction at the size of cells.
struct Direction {
    cv::Mat given;    // motion, in cells
    cv::Mat cost;     // of that motion
    cv::Mat contrast; // sum over the window of the distances from the mean about it
};

constexpr int unexplained = 5 * displacementWindow * displacementWindow;

/// Cells to be put in.
cv::Mat foundCells(const Direction& direction, const BestDisplacements& own, const BestDisplacements& other,
                   const DisplacementReach& reach) {
    cv::Mat mask = cv::Mat::zeros(direction.cost.size(), CV_8U);
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x) {
            const int before = direction.cost.at<std::uint16_t>(y, x);
            const int after = own.costAt(x, y);
            if (before < unexplained || after * 2 > before) continue;
            // What is flat fits anywhere.
            constexpr int plain = 10 * displacementWindow * displacementWindow;
            const int contrast = direction.contrast.at<std::uint16_t>(y, x);
            if (contrast < plain || contrast < 3 * after) continue;
            const cv::Point d = reach.of(own.placeAt(x, y));
            const cv::Point r = reach.of(other.placeAt(x + d.x, y + d.y));
            if (std::abs(d.x + r.x) > 1 || std::abs(d.y + r.y) > 1) continue;
            const auto& v = direction.given.at<cv::Vec2f>(y, x);
            if (std::abs(v[0] - static_cast<float>(d.x)) < 2 && std::abs(v[1] - static_cast<float>(d.y)) < 2)
                continue;
            mask.at<std::uint8_t>(y, x) = 255;
        }
    keepAlike(mask, own, reach);
    return mask;
}

/// Pixels of a cell.
struct Grid {
    double x, y; // pixels across and down
    [[nodiscard]] cv::Rect pixels(const cv::Rect& cells) const {
        const cv::Point from(cvRound(cells.x * x), cvRound(cells.y * y));
        return {from, cv::Point(cvRound((cells.x + cells.width) * x), cvRound((cells.y + cells.height) * y))};
    }
};

/// `flow` with the motion of the cells in `mask` put in, and a little around them, since outlines lie there.
cv::Mat withFound(const cv::Mat& flow, const cv::Mat& mask, const BestDisplacements& own,
                  const DisplacementReach& reach, const Grid& grid, cv::Rect& where) {
    constexpr int around = 3;
    constexpr int room = 8;
    cv::Mat out = flow.clone();
    const cv::Rect all({0, 0}, mask.size());
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x) {
            int nearest = 2 * around * around + 1;
            cv::Point d;
            const cv::Rect near = cv::Rect(x - around, y - around, 2 * around + 1, 2 * around + 1) & all;
            for (int j = near.y; j < near.br().y; ++j)
                for (int i = near.x; i < near.br().x; ++i) {
                    const int far = (i - x) * (i - x) + (j - y) * (j - y);
                    if (far >= nearest || mask.at<std::uint8_t>(j, i) == 0) continue;
                    nearest = far;
                    d = reach.of(own.placeAt(i, j));
                }
            if (nearest > 2 * around * around) continue;
            out(grid.pixels({x, y, 1, 1})) = cv::Scalar(d.x * grid.x, d.y * grid.y);
            const cv::Rect place(x - room, y - room, 2 * room + 1, 2 * room + 1);
            where |= (place | (place + d)) & all;
        }
    return out;
}

} // namespace

FarMotions farMotions(const cv::Mat& from, const cv::Mat& to, const cv::Mat& there, const cv::Mat& back,
                      const std::stop_token& stop) {
    // By the longer side: the work grows with the fourth power of the cells across.
    const int factor = std::max(2, (std::max(from.cols, from.rows) + cellsAcross / 2) / cellsAcross);
    const cv::Size size(from.cols / factor, from.rows / factor);
    if (std::min(size.width, size.height) < 4 * displacementWindow) return {};
    const Grid grid{static_cast<double>(from.cols) / size.width,
                    static_cast<double>(from.rows) / size.height};
    const cv::Mat a = meansInCells(from, size);
    const cv::Mat b = meansInCells(to, size);
    const auto direction = [&](const cv::Mat& flow, const cv::Mat& own, const cv::Mat& other) {
        Direction d;
        cv::resize(flow, d.given, size, 0, 0, cv::INTER_AREA);
        cv::divide(d.given, cv::Scalar(grid.x, grid.y), d.given);
        d.cost = costAlong(own, other, d.given);
        cv::Mat distance;
        cv::absdiff(own, cv::Scalar(middle), distance);
        summed(distance, d.contrast);
        return d;
    };
    const Direction forward = direction(there, a, b);
    const Direction backward = direction(back, b, a);
    if (cv::countNonZero(forward.cost >= unexplained) < enough &&
        cv::countNonZero(backward.cost >= unexplained) < enough)
        return {};
    const DisplacementReach reach{size.width / 5, size.height / 5};
    const DisplacementsBothWays best = bestDisplacements(a, b, reach, stop);
    const cv::Mat ahead = foundCells(forward, best.there, best.back, reach);
    const cv::Mat behind = foundCells(backward, best.back, best.there, reach);
    if (cv::countNonZero(ahead) + cv::countNonZero(behind) == 0) return {};
    FarMotions out;
    cv::Rect where;
    out.there = withFound(there, ahead, best.there, reach, grid, where);
    out.back = withFound(back, behind, best.back, reach, grid, where);
    out.where = grid.pixels(where) & cv::Rect({0, 0}, from.size());
    for (cv::Mat* part : {&out.there, &out.back})
        *part = (*part)(out.where).clone(); // of a large picture the whole takes memory
    return out;
}

} // namespace yarngap
