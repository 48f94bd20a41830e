#include "core/motion/shared_change.h"

#include "core/motion/row_along.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <vector>

namespace yarngap {

namespace {

struct ChangeSample {
    cv::Vec3d place; ///< 1, right and down
    cv::Vec2d change;
};

cv::Vec3d placeIn(int width, int height, double x, double y) {
    const double half = 0.5 * std::max(1, width);
    return {1, (x - half) / half, (y - 0.5 * height) / half};
}

} // namespace

SharedChange::SharedChange(const VectorField& onward, const TrustField& onwardTrust, const VectorField& away,
                           const TrustField& awayTrust)
    : width_(onward.width)
    , height_(onward.height) {
    constexpr int every = 8;
    constexpr std::uint8_t trusted = 64;
    constexpr double longest = 10000;
    std::vector<ChangeSample> samples;
    for (int y = every / 2; y < height_; y += every)
        for (int x = every / 2; x < width_; x += every) {
            if (std::min(onwardTrust.row(y)[x], awayTrust.row(y)[x]) < trusted) continue;
            const float* v = onward.row(y) + std::ptrdiff_t{2} * x;
            const float* u = away.row(y) + std::ptrdiff_t{2} * x;
            const cv::Vec2d change(static_cast<double>(v[0]) + static_cast<double>(u[0]),
                                   static_cast<double>(v[1]) + static_cast<double>(u[1]));
            if (!(cv::norm(change) < longest)) continue;
            samples.push_back({placeIn(width_, height_, x, y), change});
        }
    constexpr std::size_t enough = 100;
    if (samples.size() < enough) return;
    constexpr int rounds = 8;
    constexpr double widest = 16; // pixels
    double width = widest;
    for (int round = 0; round < rounds; ++round) {
        constexpr double steady = 1e-6; // lest samples on one line leave it open
        cv::Matx33d normal = cv::Matx33d::eye() * steady;
        std::array<cv::Vec3d, 2> right{};
        for (const ChangeSample& s : samples) {
            const cv::Vec2d left(s.change[0] - parts_[0].dot(s.place), s.change[1] - parts_[1].dot(s.place));
            const double weight = 1 / (1 + left.dot(left) / (width * width));
            normal += weight * s.place * s.place.t();
            for (int i = 0; i < 2; ++i)
                right[static_cast<std::size_t>(i)] += weight * s.change[i] * s.place;
        }
        const cv::Matx33d inverse = normal.inv();
        for (std::size_t i = 0; i < 2; ++i)
            parts_[i] = inverse * right[i];
        width = std::max(1.0, width / 2);
    }
}

cv::Vec2f SharedChange::at(double x, double y) const {
    const cv::Vec3d place = placeIn(width_, height_, x, y);
    return {static_cast<float>(parts_[0].dot(place)), static_cast<float>(parts_[1].dot(place))};
}

bool SharedChange::isSlight() const {
    constexpr double slight = 0.25; // pixels
    for (const double x : {0, width_})
        for (const double y : {0, height_})
            if (cv::norm(at(x, y)) >= slight) return false; // an affine field is greatest at a corner
    return true;
}

ColouredPicture SharedChange::evenedOut(const ColouredPicture& beyond) const {
    if (isSlight()) return beyond;
    cv::Mat change(beyond.luma.size(), CV_32FC2);
    for (int y = 0; y < change.rows; ++y) {
        auto* line = change.ptr<cv::Vec2f>(y);
        for (int x = 0; x < change.cols; ++x)
            line[x] = at(x, y);
    }
    const auto moved = [&change](const cv::Mat& plane) {
        return plane.empty() ? plane : pictureAlong(plane, change, {}, 1);
    };
    return {moved(beyond.luma), moved(beyond.colour)};
}

} // namespace yarngap
