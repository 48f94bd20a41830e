#include "core/motion/displacement_search.h"

#include "core/progress.h"
#include "core/widest.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <initializer_list>
#include <limits>
#include <mutex>

namespace yarngap {

namespace {

constexpr int half = displacementWindow / 2;
static_assert(half == 2, "sums of rows are written out for five");

int mirroredIn(int i, int n) {
    return i < 0 ? -1 - i : i >= n ? 2 * n - 1 - i : i;
}

/// Cut-off differences of two lines of `n` cells into `line`, which has room for half a window at both ends,
/// and their sums over five cells.
YARNGAP_WIDEST YARNGAP_LEFT_AS_IT_IS void sumAlong(const std::uint8_t* a, const std::uint8_t* b, int n,
                                                   std::uint8_t* line, std::int16_t* sums) {
    std::uint8_t* d = line + half;
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        // Written out: a sanitizer would stay in the library's functions for lower and higher.
        const auto apart = static_cast<std::uint8_t>(a[x] < b[x] ? b[x] - a[x] : a[x] - b[x]);
        d[x] = apart < mostCellDifference ? apart : std::uint8_t{mostCellDifference};
    }
    for (int i = 1; i <= half; ++i) {
        d[-i] = d[i - 1];
        d[n - 1 + i] = d[n - i];
    }
#pragma GCC ivdep
    for (int x = 0; x < n; ++x)
        sums[x] = static_cast<std::int16_t>(line[x] + line[x + 1] + line[x + 2] + line[x + 3] + line[x + 4]);
}

/// One line of cells of both pictures, where the next displacement is offered.
struct OfferedLine {
    std::int16_t *costThere, *placeThere, *costBack, *placeBack;
};

/// Moves the window down by a line and takes what is lower.
YARNGAP_WIDEST YARNGAP_LEFT_AS_IT_IS void offerLine(std::int16_t* sums, const std::int16_t* entering,
                                                    const std::int16_t* leaving, int n,
                                                    const OfferedLine& line, std::int16_t numberThere,
                                                    std::int16_t numberBack) {
    std::int16_t* costThere = line.costThere;
    std::int16_t* placeThere = line.placeThere;
    std::int16_t* costBack = line.costBack;
    std::int16_t* placeBack = line.placeBack;
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        const auto sum = static_cast<std::int16_t>(sums[x] + entering[x] - leaving[x]);
        sums[x] = sum;
        placeThere[x] = sum < costThere[x] ? numberThere : placeThere[x];
        costThere[x] = sum < costThere[x] ? sum : costThere[x];
        // Numbers of the way back fall as those of the way there rise: the last of several alike is the
        // lowest.
        placeBack[x] = sum <= costBack[x] ? numberBack : placeBack[x];
        costBack[x] = sum <= costBack[x] ? sum : costBack[x];
    }
}

/// Takes what is lower in `other`, or as low with a lower number, so that the order of joining is no matter.
void take(BestDisplacements& best, const BestDisplacements& other) {
    for (std::size_t i = 0; i < best.cost.size(); ++i) {
        if (other.cost[i] > best.cost[i] ||
            (other.cost[i] == best.cost[i] && other.place[i] >= best.place[i]))
            continue;
        best.cost[i] = other.cost[i];
        best.place[i] = other.place[i];
    }
}

/// The search of one worker.
class DisplacementSearch {
  public:
    DisplacementSearch(const cv::Mat& a, const cv::Mat& b, const DisplacementReach& reach)
        : best{{a.cols, a.rows}, {a.cols, a.rows}}
        , a_(a)
        , b_(b)
        , reach_(reach)
        , line_(static_cast<std::size_t>(a.cols + 2 * half))
        , sums_(static_cast<std::size_t>(a.cols)) {
        for (auto& row : rows_)
            row.resize(static_cast<std::size_t>(a.cols));
    }

    void offer(int dx, int dy) {
        const cv::Rect in(std::max(0, -dx), std::max(0, -dy), a_.cols - std::abs(dx), a_.rows - std::abs(dy));
        const auto numberThere = static_cast<std::int16_t>(reach_.numberOf(dx, dy));
        const auto numberBack = static_cast<std::int16_t>(reach_.numberOf(-dx, -dy));
        const auto row = [&](int y) -> std::int16_t* {
            return rows_[static_cast<std::size_t>(mirroredIn(y, in.height)) % rows_.size()].data();
        };
        const auto sumRow = [&](int y) {
            if (y >= in.height) return;
            const std::uint8_t* lineA = a_.ptr<std::uint8_t>(in.y + y) + in.x;
            const std::uint8_t* lineB = b_.ptr<std::uint8_t>(in.y + y + dy) + in.x + dx;
            touchEnds(lineA, in.width);
            touchEnds(lineB, in.width);
            touchEnds(line_.data(), in.width + 2 * half);
            touchEnds(row(y), in.width);
            sumAlong(lineA, lineB, in.width, line_.data(), row(y));
        };
        // The window before the first line, so that the first step of it is like all others.
        for (int y = 0; y < half; ++y)
            sumRow(y);
        for (int x = 0; x < in.width; ++x) {
            const auto at = static_cast<std::size_t>(x);
            int sum = 0;
            for (int y = -half; y < half; ++y)
                sum += row(y)[x];
            sums_[at] = static_cast<std::int16_t>(sum);
        }
        zero_.assign(static_cast<std::size_t>(in.width), 0);
        for (int y = 0; y < in.height; ++y) {
            sumRow(y + half);
            const std::size_t there = best.there.at(in.x, in.y + y);
            const std::size_t back = best.back.at(in.x + dx, in.y + y + dy);
            const OfferedLine line{best.there.cost.data() + there, best.there.place.data() + there,
                                   best.back.cost.data() + back, best.back.place.data() + back};
            const std::int16_t* entering = row(y + half);
            const std::int16_t* leaving = y == 0 ? zero_.data() : row(y - half - 1);
            for (const auto& some :
                 std::initializer_list<const std::int16_t*>{line.costThere, line.placeThere, line.costBack,
                                                            line.placeBack, entering, leaving, sums_.data()})
                touchEnds(some, in.width);
            offerLine(sums_.data(), entering, leaving, in.width, line, numberThere, numberBack);
        }
    }

    DisplacementsBothWays best;

  private:
    const cv::Mat& a_;
    const cv::Mat& b_;
    DisplacementReach reach_;
    std::vector<std::uint8_t> line_;
    std::array<std::vector<std::int16_t>, 8> rows_; ///< sums along the last lines, in turn
    std::vector<std::int16_t> sums_, zero_;
};

} // namespace

BestDisplacements::BestDisplacements(int w, int h)
    : width(w)
    , height(h)
    , cost(static_cast<std::size_t>(w) * static_cast<std::size_t>(h),
           std::numeric_limits<std::int16_t>::max())
    , place(cost.size(), 0) {}

DisplacementsBothWays bestDisplacements(const cv::Mat& a, const cv::Mat& b, const DisplacementReach& reach,
                                        const std::stop_token& stop) {
    DisplacementsBothWays all{{a.cols, a.rows}, {a.cols, a.rows}};
    std::mutex joining;
    constexpr int atOnce = 8;
    tbb::parallel_for(tbb::blocked_range<int>(-reach.y, reach.y + 1, atOnce),
                      [&](const tbb::blocked_range<int>& range) {
                          DisplacementSearch own(a, b, reach);
                          for (int dy = range.begin(); dy < range.end() && !stop.stop_requested(); ++dy)
                              for (int dx = -reach.x; dx <= reach.x; ++dx)
                                  own.offer(dx, dy);
                          const std::lock_guard lock(joining);
                          take(all.there, own.best.there);
                          take(all.back, own.best.back);
                      });
    throwIfStopped(stop);
    return all;
}

} // namespace yarngap
