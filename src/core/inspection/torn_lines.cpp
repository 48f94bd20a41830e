#include "core/inspection/torn_lines.h"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdlib>

namespace yarngap {

namespace {

constexpr int strip = 4;              // lines of which one is looked at
constexpr double mostOfHeight = 0.45; // more is no band

/// How far a line lies off both neighbours, and these off each other: means of |difference|.
struct LineApart {
    double off = 0;
    double between = 0;

    [[nodiscard]] bool isTorn(double usual) const {
        constexpr double clearly = 2.5;
        constexpr double least = 3; // 8-bit steps
        return off > clearly * usual + least && between < 0.5 * off;
    }
};

/// A line of the frame and what both neighbours show there.
struct LaidLines {
    cv::Mat now, a, b;

    LaidLines(const cv::Mat& luma, const Neighbour& first, const Neighbour& second, int y)
        : now(luma.row(y))
        , a(first.laid({0, y, luma.cols, 1}))
        , b(second.laid({0, y, luma.cols, 1})) {}

    [[nodiscard]] LineApart apart() const {
        const double area = now.cols;
        return {std::min(cv::norm(now, a, cv::NORM_L1), cv::norm(now, b, cv::NORM_L1)) / area,
                cv::norm(a, b, cv::NORM_L1) / area};
    }
    /// How far it lies off the neighbour before once it is pushed back by so many pixels.
    [[nodiscard]] double misfit(int by) const {
        const int from = std::max(0, by);
        const int count = now.cols - std::abs(by);
        return cv::norm(now.colRange(from, from + count), a.colRange(from - by, from - by + count),
                        cv::NORM_L1) /
               count;
    }
    /// By how many pixels the line is pushed aside; 0 where no push makes it fit clearly better.
    [[nodiscard]] int push() const {
        const int reach = now.cols / 4;
        int best = 0;
        double least = misfit(0);
        const double unmoved = least;
        for (int by = -reach; by <= reach; ++by)
            if (const double here = misfit(by); here < least) {
                least = here;
                best = by;
            }
        return least < 0.55 * unmoved ? best : 0;
    }
};

/// By how much the lines of a band are pushed aside; 0 where they do not all fit when pushed back by about as
/// much.
int pushOf(const cv::Mat& luma, const Neighbour& a, const Neighbour& b, int top, int bottom) {
    constexpr int tries = 5;
    constexpr int agreed = 3;
    constexpr int leastPush = 3; // pixels
    std::vector<int> pushes;
    for (int i = 0; i < tries; ++i) {
        const int push = LaidLines(luma, a, b, top + (bottom - top) * (2 * i + 1) / (2 * tries)).push();
        if (std::abs(push) >= leastPush) pushes.push_back(push);
    }
    std::ranges::sort(pushes);
    for (std::size_t i = 0; i + agreed <= pushes.size(); ++i)
        if (pushes[i + agreed - 1] - pushes[i] <= 2) return pushes[i + agreed / 2];
    return 0;
}

} // namespace

std::vector<cv::Rect> tornLines(const cv::Mat& luma, const Neighbour& a, const Neighbour& b) {
    std::vector<LineApart> strips;
    std::vector<double> usual;
    for (int y = strip / 2; y < luma.rows; y += strip) {
        strips.push_back(LaidLines(luma, a, b, y).apart());
        usual.push_back(strips.back().off);
    }
    std::vector<cv::Rect> bands;
    if (strips.size() < 8) return bands;
    std::nth_element(usual.begin(), usual.begin() + static_cast<std::ptrdiff_t>(usual.size() / 2),
                     usual.end());
    const double middle = usual[usual.size() / 2];
    const auto isTorn = [&](std::size_t i) { return i < strips.size() && strips[i].isTorn(middle); };
    for (std::size_t i = 0; i < strips.size(); ++i) {
        if (!isTorn(i)) continue;
        std::size_t last = i;
        // Two strips in a row may show nothing: a sky pushed aside is a sky.
        while (isTorn(last + 1) || isTorn(last + 2) || isTorn(last + 3))
            ++last;
        int top = static_cast<int>(i) * strip;
        int bottom = std::min(luma.rows, static_cast<int>(last + 1) * strip);
        i = last;
        if (bottom - top < 2 * strip || bottom - top > mostOfHeight * luma.rows) continue;
        const int push = pushOf(luma, a, b, top, bottom);
        if (push == 0) continue;
        const auto isTornLine = [&](int y) {
            const LaidLines lines(luma, a, b, y);
            return lines.apart().isTorn(middle) || lines.misfit(push) < 0.75 * lines.misfit(0);
        };
        // Single lines may look alike pushed and not.
        constexpr int hole = 3;
        for (int y = top - 1; y >= std::max(0, top - 1 - hole); --y)
            if (isTornLine(y)) top = y;
        for (int y = bottom; y < std::min(luma.rows, bottom + 1 + hole); ++y)
            if (isTornLine(y)) bottom = y + 1;
        bands.emplace_back(0, top, luma.cols, bottom - top);
    }
    return bands;
}

} // namespace yarngap
