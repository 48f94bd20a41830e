#include "core/motion/far_motion.h"

#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <mutex>
#include <vector>

namespace yarngap {

namespace {

constexpr int cellsAcross = 160;
constexpr int window = 5;
constexpr double middle = 128;
constexpr int mostCellDifference = 40;
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

/// Best displacement of each cell so far.
struct Best {
    explicit Best(const cv::Size& size)
        : cost(size, CV_16U, cv::Scalar(UINT16_MAX))
        , place(size, CV_16U, cv::Scalar(0)) {}

    /// Takes displacement `number` where it has the lower `other`.
    void offer(const cv::Mat& other, const cv::Rect& where, std::uint16_t number) {
        for (int y = 0; y < where.height; ++y) {
            const auto* o = other.ptr<std::uint16_t>(y);
            auto* c = cost.ptr<std::uint16_t>(where.y + y) + where.x;
            auto* p = place.ptr<std::uint16_t>(where.y + y) + where.x;
            for (int x = 0; x < where.width; ++x) {
                const bool lower = o[x] < c[x];
                c[x] = lower ? o[x] : c[x];
                p[x] = lower ? number : p[x];
            }
        }
    }
    /// Takes what is lower in `other`; of two alike the lower number, so that the order of joining is no
    /// matter.
    void take(const Best& other) {
        const cv::Mat lower = (other.cost < cost) | ((other.cost == cost) & (other.place < place));
        other.cost.copyTo(cost, lower);
        other.place.copyTo(place, lower);
    }

    cv::Mat cost;  // CV_16U, sum of differences over the window
    cv::Mat place; // CV_16U, numbers of displacements
};

/// Sum over the window of the cut-off difference; changes `difference`.
void summed(cv::Mat& difference, cv::Mat& out) {
    cv::min(difference, mostCellDifference, difference);
    cv::boxFilter(difference, out, CV_16U, {window, window}, {-1, -1}, false, cv::BORDER_REFLECT);
}

/// The displacements tried.
struct Reach {
    int x, y; // cells each way
    [[nodiscard]] std::uint16_t numberOf(int dx, int dy) const {
        return static_cast<std::uint16_t>((dy + y) * (2 * x + 1) + dx + x);
    }
    [[nodiscard]] cv::Point of(std::uint16_t number) const {
        return {number % (2 * x + 1) - x, number / (2 * x + 1) - y};
    }
};

struct Pair {
    Best there, back;
};

Pair searched(const cv::Mat& a, const cv::Mat& b, const Reach& reach, const std::stop_token& stop) {
    const cv::Size size = a.size();
    Pair all{Best(size), Best(size)};
    std::mutex joining;
    tbb::parallel_for(tbb::blocked_range<int>(-reach.y, reach.y + 1, 8),
                      [&](const tbb::blocked_range<int>& range) {
                          Pair own{Best(size), Best(size)};
                          cv::Mat difference;
                          cv::Mat cost;
                          for (int dy = range.begin(); dy < range.end() && !stop.stop_requested(); ++dy)
                              for (int dx = -reach.x; dx <= reach.x; ++dx) {
                                  const cv::Rect in(std::max(0, -dx), std::max(0, -dy),
                                                    size.width - std::abs(dx), size.height - std::abs(dy));
                                  const cv::Rect out(in.x + dx, in.y + dy, in.width, in.height);
                                  cv::absdiff(a(in), b(out), difference);
                                  summed(difference, cost);
                                  own.there.offer(cost, in, reach.numberOf(dx, dy));
                                  own.back.offer(cost, out, reach.numberOf(-dx, -dy));
                              }
                          const std::lock_guard lock(joining);
                          all.there.take(own.there);
                          all.back.take(own.back);
                      });
    throwIfStopped(stop);
    return all;
}

/// Summed difference along `flow`, which is in cells.
cv::Mat costAlong(const cv::Mat& a, const cv::Mat& b, const cv::Mat& flow) {
    cv::Mat map(flow.size(), CV_32FC2);
    for (int y = 0; y < flow.rows; ++y)
        for (int x = 0; x < flow.cols; ++x)
            map.at<cv::Vec2f>(y, x) =
                flow.at<cv::Vec2f>(y, x) + cv::Vec2f(static_cast<float>(x), static_cast<float>(y));
    cv::Mat moved;
    cv::remap(b, moved, map, {}, cv::INTER_LINEAR, cv::BORDER_REPLICATE);
    cv::Mat difference;
    cv::absdiff(a, moved, difference);
    cv::Mat out;
    summed(difference, out);
    return out;
}

/// Leaves of `mask` only patches of cells that move alike and are large enough not to be chance.
void keepAlike(cv::Mat& mask, const Best& own, const Reach& reach) {
    cv::Mat left = mask.clone();
    std::vector<cv::Point> patch;
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x) {
            if (left.at<std::uint8_t>(y, x) == 0) continue;
            patch.assign(1, {x, y});
            left.at<std::uint8_t>(y, x) = 0;
            for (std::size_t i = 0; i < patch.size(); ++i) {
                const cv::Point at = patch[i];
                const cv::Point d = reach.of(own.place.at<std::uint16_t>(at));
                for (int j = std::max(0, at.y - 1); j <= std::min(mask.rows - 1, at.y + 1); ++j)
                    for (int k = std::max(0, at.x - 1); k <= std::min(mask.cols - 1, at.x + 1); ++k) {
                        const cv::Point e = reach.of(own.place.at<std::uint16_t>(j, k));
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

constexpr int unexplained = 5 * window * window;

/// Cells to be put in.
cv::Mat foundCells(const Direction& direction, const Best& own, const Best& other, const Reach& reach) {
    cv::Mat mask = cv::Mat::zeros(direction.cost.size(), CV_8U);
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x) {
            const int before = direction.cost.at<std::uint16_t>(y, x);
            const int after = own.cost.at<std::uint16_t>(y, x);
            if (before < unexplained || after * 2 > before) continue;
            // What is flat fits anywhere.
            constexpr int plain = 10 * window * window;
            const int contrast = direction.contrast.at<std::uint16_t>(y, x);
            if (contrast < plain || contrast < 3 * after) continue;
            const cv::Point d = reach.of(own.place.at<std::uint16_t>(y, x));
            const cv::Point r = reach.of(other.place.at<std::uint16_t>(y + d.y, x + d.x));
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
cv::Mat withFound(const cv::Mat& flow, const cv::Mat& mask, const Best& own, const Reach& reach,
                  const Grid& grid, cv::Rect& where) {
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
                    d = reach.of(own.place.at<std::uint16_t>(j, i));
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
    if (std::min(size.width, size.height) < 4 * window) return {};
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
    const Reach reach{size.width / 5, size.height / 5};
    const Pair best = searched(a, b, reach, stop);
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
