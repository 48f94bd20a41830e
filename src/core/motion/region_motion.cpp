#include "core/motion/region_motion.h"

#include "core/motion/cell_vectors.h"
#include "core/motion/difference_along.h"
#include "core/motion/local_motions.h"
#include "core/motion/semi_global_choice.h"
#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <array>

namespace yarngap {

namespace {

constexpr int ownMotion = 0;
constexpr int motionGoingOn = 1;
constexpr int firstAround = 2;
static_assert(firstAround + LocalMotions::most <= CellMotions::most);

/// Half as large, cells being means of their pixels.
ColouredPicture byCells(const ColouredPicture& picture) {
    return {inCells(picture.luma), picture.colour.empty() ? cv::Mat() : inCells(picture.colour)};
}

/// What a pixel may follow.
class Choices {
  public:
    Choices(const MotionsInQuestion& motions, const std::stop_token& stop)
        : motions_(motions)
        , around_(motions.own, motions.trust, stop) {}

    [[nodiscard]] int countAt(int x, int y) const { return firstAround + around_.countAt(x, y); }
    [[nodiscard]] cv::Vec2f at(int k, int x, int y) const {
        if (k >= firstAround) return around_.at(k - firstAround, x, y);
        const float* v = (k == ownMotion ? motions_.own : motions_.goesOn).row(y) + 2 * x;
        return {v[0], v[1]};
    }

  private:
    const MotionsInQuestion& motions_;
    LocalMotions around_;
};

using Costs = std::vector<CellMotions::Eight>;

/// Writes the `k`th motion of every cell and what it costs, over 3 x 3 cells; and in `alone` by itself.
void addMotion(CellMotions& cells, Costs& alone, int k, const Choices& choices,
               const ThreePictures& pictures) {
    constexpr float dearer = 4; // steps
    cv::Mat flow = cv::Mat::zeros(cells.height, cells.width, CV_32FC2);
    const auto eachCell = [&](auto use) {
        tbb::parallel_for(0, cells.height, [&](int y) {
            for (int x = 0; x < cells.width; ++x)
                if (k < choices.countAt(2 * x, 2 * y)) use(x, y, flow.at<cv::Vec2f>(y, x));
        });
    };
    eachCell([&](int x, int y, cv::Vec2f& v) { v = choices.at(k, 2 * x, 2 * y); });
    const cv::Mat flowInCells = flow * 0.5;
    const auto differenceTo = [&](const ColouredPicture& picture, float sign) {
        constexpr float colourPart = 0.5F; // counted whole or twice, frames came out no better
        return differenceAlong(pictures.from, picture, flowInCells, {}, sign, colourPart);
    };
    const cv::Mat ahead = differenceTo(pictures.to, 1);
    const cv::Mat behind = differenceTo(pictures.beyond, -1) + dearer;
    const auto around = [](const cv::Mat& difference) {
        cv::Mat mean;
        cv::blur(difference, mean, {3, 3}, {-1, -1}, cv::BORDER_REFLECT);
        return mean;
    };
    const cv::Mat byItself = cv::min(ahead, behind);
    const cv::Mat cost = cv::min(around(ahead), around(behind));
    eachCell([&](int x, int y, const cv::Vec2f& v) {
        const std::size_t i =
            static_cast<std::size_t>(y) * static_cast<std::size_t>(cells.width) + static_cast<std::size_t>(x);
        CellMotions::set(cells.cost[i], k, cost.at<float>(y, x));
        CellMotions::set(alone[i], k, byItself.at<float>(y, x));
        CellMotions::set(cells.x[i], k, v[0]);
        CellMotions::set(cells.y[i], k, v[1]);
    });
}

/// The field in which each cell follows the one of `choices` that `chosen` says.
VectorField fieldThatFollows(const std::vector<std::uint8_t>& chosen, const VectorField& own,
                             const Choices& choices) {
    VectorField out = own;
    const auto across = static_cast<std::size_t>(cellsOf(out.width));
    tbb::parallel_for(0, out.height, [&](int y) {
        const std::uint8_t* row = chosen.data() + static_cast<std::size_t>(y / 2) * across;
        for (int x = 0; x < out.width; ++x) {
            if (row[x / 2] == ownMotion) continue;
            const cv::Vec2f v = choices.at(row[x / 2], x, y);
            out.row(y)[2 * x] = v[0];
            out.row(y)[2 * x + 1] = v[1];
        }
    });
    return out;
}

} // namespace

RegionMotion regionMotion(const MotionsInQuestion& motions, const ThreePictures& pictures,
                          const std::stop_token& stop) {
    const Choices choices(motions, stop);
    const ThreePictures small{byCells(pictures.from), byCells(pictures.to), byCells(pictures.beyond)};
    CellMotions cells(small.from.luma.cols, small.from.luma.rows);
    Costs alone = cells.cost;
    for (int k = 0; k < CellMotions::most; ++k) {
        throwIfStopped(stop);
        addMotion(cells, alone, k, choices, small);
    }
    // The first is the best one by itself. The others were picked for how little they err where it does.
    const std::array ways{CellCosts{cells.cost, -3}, CellCosts{cells.cost, 0}, CellCosts{cells.cost, -11},
                          CellCosts{alone, 3}};
    const auto chosen = chooseSemiGlobally(cells, ways, small.from, stop);
    RegionMotion out{fieldThatFollows(chosen.front(), motions.own, choices), {}};
    for (std::size_t i = 1; i < chosen.size(); ++i)
        out.others.push_back(inCells(fieldThatFollows(chosen[i], motions.own, choices)));
    return out;
}

} // namespace yarngap
