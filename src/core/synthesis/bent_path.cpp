#include "core/synthesis/bent_path.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <vector>

namespace yarngap {

namespace {

/// Coarse vectors read at a place of the full picture.
struct CoarseField {
    const VectorField& field;
    const TrustField& trust;
    float scale; ///< coarse pixels in one of the picture

    [[nodiscard]] std::pair<int, int> at(float x, float y) const {
        const auto index = [this](float place, int size) {
            return static_cast<int>(std::clamp(place * scale, 0.0F, static_cast<float>(size - 1)));
        };
        return {index(x, field.width), index(y, field.height)};
    }
};

/// What the neighbours tell; see bendOf.
MidMotion bendByNeighbours(const MidMotion& mid, const NeighbourMotion& beside, double phase,
                           int pictureWidth) {
    MidMotion bend{mid.width, mid.height, {}, {}};
    const auto t = static_cast<float>(phase);
    const auto scaleOf = [&](const VectorField& f) {
        return static_cast<float>(f.width) / static_cast<float>(pictureWidth);
    };
    const CoarseField before{beside.before->backward, beside.before->backwardTrust,
                             scaleOf(beside.before->backward)};
    const CoarseField after{beside.after->forward, beside.after->forwardTrust,
                            scaleOf(beside.after->forward)};
    // Every second cell each way is enough for what is averaged over many.
    constexpr int every = 2;
    const cv::Size size((mid.width + every - 1) / every, (mid.height + every - 1) / every);
    cv::Mat off(size, CV_32FC2);
    cv::Mat weight(size, CV_32F);
    tbb::parallel_for(0, size.height, [&](int row) {
        const int y = row * every;
        for (int column = 0; column < size.width; ++column) {
            const MidCell& cell = mid.row(y)[column * every];
            const float vx = 2 * cell.vx; // in pixels from here on
            const float vy = 2 * cell.vy;
            const float px = 2 * static_cast<float>(column * every) + 1;
            const float py = 2 * static_cast<float>(y) + 1;
            const auto [ax, ay] = before.at(px - t * vx, py - t * vy);
            const auto [bx, by] = after.at(px + (1 - t) * vx, py + (1 - t) * vy);
            const float* u = before.field.row(ay) + std::ptrdiff_t{2} * ax; // from a back to the frame before
            const float* w = after.field.row(by) + std::ptrdiff_t{2} * bx;
            const cv::Vec2f q(vx + u[0], vy + u[1]);
            const cv::Vec2f r(w[0] - vx, w[1] - vy);
            const cv::Vec2f mean = (q + r) * 0.5F;
            constexpr float noise = 0.2F;
            const float bent = mean.dot(mean);
            const float uneven = (q - r).dot(q - r) / 4 + noise * noise;
            off.at<cv::Vec2f>(row, column) =
                (q * ((2 - t) / 3) + r * ((1 + t) / 3)) * (t * (t - 1) / 2 * bent / (bent + uneven));
            weight.at<float>(row, column) = static_cast<float>(before.trust.row(ay)[ax]) *
                                            static_cast<float>(after.trust.row(by)[bx]) / (255.0F * 255.0F);
        }
    });
    constexpr int window = 5;
    const auto average = [](cv::Mat& m) { cv::blur(m, m, {window, window}, {-1, -1}, cv::BORDER_REFLECT); };
    tbb::parallel_for(0, size.height, [&](int row) {
        for (int column = 0; column < size.width; ++column)
            off.at<cv::Vec2f>(row, column) *= weight.at<float>(row, column);
    });
    average(off);
    average(weight);
    bend.cells.resize(mid.cells.size());
    tbb::parallel_for(0, mid.height, [&](int y) {
        for (int x = 0; x < mid.width; ++x) {
            // Between the four around, as the middles of every second cell lie.
            const float fx = static_cast<float>(x) / every;
            const float fy = static_cast<float>(y) / every;
            const int ix = std::min(static_cast<int>(fx), size.width - 1);
            const int iy = std::min(static_cast<int>(fy), size.height - 1);
            const int jx = std::min(ix + 1, size.width - 1);
            const int jy = std::min(iy + 1, size.height - 1);
            const float sx = fx - static_cast<float>(ix);
            const float sy = fy - static_cast<float>(iy);
            const auto mixed = [&](const auto& m, auto type) {
                using T = decltype(type);
                return (m.template at<T>(iy, ix) * (1 - sx) + m.template at<T>(iy, jx) * sx) * (1 - sy) +
                       (m.template at<T>(jy, ix) * (1 - sx) + m.template at<T>(jy, jx) * sx) * sy;
            };
            constexpr float some = 1e-3F;
            const cv::Vec2f sum = mixed(off, cv::Vec2f());
            const float inverse = 1.0F / (mixed(weight, float{}) + some);
            float dx = sum[0] * inverse;
            float dy = sum[1] * inverse;
            const MidCell& cell = mid.row(y)[x];
            const float length = std::sqrt(dx * dx + dy * dy);
            const float most = 0.5F * std::sqrt(cell.vx * cell.vx + cell.vy * cell.vy) + 0.5F;
            const float kept = length > most ? most / length : 1.0F;
            dx *= kept;
            dy *= kept;
            bend.row(y)[x] = {0.5F * dx, 0.5F * dy, 0, 0};
        }
    });
    return bend;
}

/// Moves all cells so that the median of each coordinate comes by `part` of its way to what `to` says, in
/// cells.
void shareBend(MidMotion& bend, const std::array<double, 2>& to, float part) {
    constexpr int every = 4; // cells each way, enough for a median
    std::vector<float> xs;
    std::vector<float> ys;
    for (int y = 0; y < bend.height; y += every)
        for (int x = 0; x < bend.width; x += every) {
            xs.push_back(bend.row(y)[x].vx);
            ys.push_back(bend.row(y)[x].vy);
        }
    const auto median = [](std::vector<float>& values) {
        const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
        std::nth_element(values.begin(), middle, values.end());
        return *middle;
    };
    const float dx = part * (static_cast<float>(to[0]) - median(xs));
    const float dy = part * (static_cast<float>(to[1]) - median(ys));
    for (MidCell& cell : bend.cells) {
        cell.vx += dx;
        cell.vy += dy;
    }
}

} // namespace

std::array<double, 2> offLine(const Shake& shake, double phase) {
    const double t = phase;
    const auto off = [t](double first, double last) { return t * (1 - t) * ((1 - t) * first - t * last); };
    return {off(shake.firstX, shake.lastX), off(shake.firstY, shake.lastY)};
}

MidMotion bendOf(const MidMotion& mid, const NeighbourMotion& beside, const std::optional<Shake>& shake,
                 double phase, int pictureWidth) {
    MidMotion bend{mid.width, mid.height, {}, {}};
    if (beside.before && beside.after) bend = bendByNeighbours(mid, beside, phase, pictureWidth);
    if (!shake || mid.cells.empty()) return bend;
    if (bend.cells.empty()) bend.cells.resize(mid.cells.size());
    const auto [x, y] = offLine(*shake, phase);
    constexpr double cellsInPixel = 0.5;
    shareBend(bend, {x * cellsInPixel, y * cellsInPixel}, shake->told);
    return bend;
}

} // namespace yarngap
