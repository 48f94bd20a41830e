#include "core/motion/dominant_motion.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace yarngap {

namespace {

/// A vector, with places as shares of the picture's width from its centre, so that sums are well conditioned.
struct Sample {
    double x = 0, y = 0;   // where it is
    double tx = 0, ty = 0; // where it goes
};

struct Frame {
    double cx, cy, unit; // centre and width in pixels
};

/// Trusted vectors on a grid, at places with texture in both directions or at least an edge.
std::vector<Sample> samplesOf(const cv::Mat& flow, const cv::Mat& back, const cv::Mat& picture,
                              const Frame& frame) {
    cv::Mat dx;
    cv::Mat dy;
    cv::Sobel(picture, dx, CV_32F, 1, 0);
    cv::Sobel(picture, dy, CV_32F, 0, 1);
    cv::Mat strength;
    cv::magnitude(dx, dy, strength);
    cv::boxFilter(strength, strength, -1, {5, 5});
    constexpr float textured = 16; // of Sobel's sums: a slope of two steps a pixel
    const int step = std::max(3, flow.cols / 160);
    std::vector<Sample> samples;
    samples.reserve(static_cast<std::size_t>(flow.total()) / static_cast<std::size_t>(step * step) + 1);
    for (int y = step; y < flow.rows - step; y += step)
        for (int x = step; x < flow.cols - step; x += step) {
            if (strength.at<float>(y, x) < textured) continue;
            const auto& v = flow.at<cv::Vec2f>(y, x);
            const auto tx = static_cast<float>(x) + v[0];
            const auto ty = static_cast<float>(y) + v[1];
            if (!(tx >= 0 && ty >= 0 && tx < static_cast<float>(flow.cols - 1) &&
                  ty < static_cast<float>(flow.rows - 1)))
                continue;
            const auto& r = back.at<cv::Vec2f>(static_cast<int>(ty + 0.5F), static_cast<int>(tx + 0.5F));
            if (cv::norm(v + r) > 0.5 + 0.05 * cv::norm(v)) continue;
            samples.push_back({(x - frame.cx) / frame.unit, (y - frame.cy) / frame.unit,
                               (static_cast<double>(tx) - frame.cx) / frame.unit,
                               (static_cast<double>(ty) - frame.cy) / frame.unit});
        }
    return samples;
}

/// The commonest displacement, to `bin`.
std::pair<double, double> commonest(const std::vector<Sample>& samples, double bin) {
    std::map<std::pair<int, int>, int> counts;
    for (const Sample& s : samples)
        ++counts[{static_cast<int>(std::lround((s.tx - s.x) / bin)),
                  static_cast<int>(std::lround((s.ty - s.y) / bin))}];
    std::pair<int, int> best{0, 0};
    int most = -1;
    for (const auto& [at, count] : counts) {
        int sum = 0;
        for (int j = -1; j <= 1; ++j)
            for (int i = -1; i <= 1; ++i)
                if (const auto found = counts.find({at.first + i, at.second + j}); found != counts.end())
                    sum += found->second;
        if (sum > most) {
            most = sum;
            best = at;
        }
    }
    return {best.first * bin, best.second * bin};
}

std::pair<double, double> moved(const std::array<double, 8>& h, double x, double y) {
    const double w = h[6] * x + h[7] * y + 1;
    return {(h[0] * x + h[1] * y + h[2]) / w, (h[3] * x + h[4] * y + h[5]) / w};
}

double distance(const std::array<double, 8>& h, const Sample& s) {
    const auto [x, y] = moved(h, s.x, s.y);
    return std::hypot(x - s.tx, y - s.ty);
}

/// One weighted least-squares step with Tukey's weights of width `reach`; false when too little is left.
bool refit(std::array<double, 8>& h, const std::vector<Sample>& samples, double reach, bool projective) {
    const int unknowns = projective ? 8 : 6;
    cv::Mat normal = cv::Mat::zeros(unknowns, unknowns, CV_64F);
    cv::Mat right = cv::Mat::zeros(unknowns, 1, CV_64F);
    int used = 0;
    for (const Sample& s : samples) {
        const double u = distance(h, s) / reach;
        if (u >= 1) continue;
        ++used;
        const double weight = (1 - u * u) * (1 - u * u);
        const double rows[2][8] = {{s.x, s.y, 1, 0, 0, 0, -s.x * s.tx, -s.y * s.tx},
                                   {0, 0, 0, s.x, s.y, 1, -s.x * s.ty, -s.y * s.ty}};
        const double targets[2] = {s.tx, s.ty};
        for (int r = 0; r < 2; ++r)
            for (int i = 0; i < unknowns; ++i) {
                if (rows[r][i] == 0) continue;
                for (int j = i; j < unknowns; ++j)
                    normal.at<double>(i, j) += weight * rows[r][i] * rows[r][j];
                right.at<double>(i) += weight * rows[r][i] * targets[r];
            }
    }
    if (used < 3 * unknowns) return false;
    cv::completeSymm(normal);
    cv::Mat solution;
    if (!cv::solve(normal, right, solution, cv::DECOMP_CHOLESKY)) return false;
    for (int i = 0; i < unknowns; ++i)
        h[static_cast<std::size_t>(i)] = solution.at<double>(i);
    return true;
}

/// From shares of the width about the centre back to pixels.
std::array<double, 8> inPixels(const std::array<double, 8>& h, const Frame& frame) {
    const cv::Matx33d own(h[0], h[1], h[2], h[3], h[4], h[5], h[6], h[7], 1);
    const cv::Matx33d in(1 / frame.unit, 0, -frame.cx / frame.unit, 0, 1 / frame.unit, -frame.cy / frame.unit,
                         0, 0, 1);
    const cv::Matx33d m = in.inv() * own * in;
    std::array<double, 8> out{};
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = m.val[i] / m.val[8];
    return out;
}

} // namespace

cv::Vec2f PlaneMotion::at(double x, double y) const {
    const auto [tx, ty] = moved(h, x, y);
    return {static_cast<float>(tx - x), static_cast<float>(ty - y)};
}

cv::Mat PlaneMotion::field(const cv::Size& size) const {
    cv::Mat out(size, CV_32FC2);
    for (int y = 0; y < size.height; ++y) {
        auto* row = out.ptr<cv::Vec2f>(y);
        for (int x = 0; x < size.width; ++x)
            row[x] = at(x, y);
    }
    return out;
}

std::vector<PlaneMotion> dominantMotions(const cv::Mat& flow, const cv::Mat& back, const cv::Mat& picture,
                                         int most) {
    const Frame frame{(flow.cols - 1) / 2.0, (flow.rows - 1) / 2.0, static_cast<double>(flow.cols)};
    std::vector<Sample> left = samplesOf(flow, back, picture, frame);
    const auto all = static_cast<double>(left.size());
    const double pixel = 1 / frame.unit;
    constexpr double enough = 0.05;
    std::vector<PlaneMotion> found;
    while (static_cast<int>(found.size()) < most && static_cast<double>(left.size()) > enough * all) {
        const auto [dx, dy] = commonest(left, 2 * pixel);
        std::array<double, 8> h{1, 0, dx, 0, 1, dy, 0, 0};
        bool fitted = true;
        // From wide to narrow, so that zoom and turn are caught before what does not follow is thrown out.
        for (const double reach : {12.0, 8.0, 5.0, 3.0, 2.0})
            fitted = fitted && refit(h, left, reach * pixel, false);
        if (!fitted) break;
        if (found.empty())
            for (const double reach : {2.0, 1.5, 1.5})
                fitted = fitted && refit(h, left, reach * pixel, true);
        if (!fitted) break;
        const std::size_t before = left.size();
        std::erase_if(left, [&](const Sample& s) { return distance(h, s) < pixel; });
        const double support = static_cast<double>(before - left.size()) / all;
        if (support < enough) break;
        found.push_back({inPixels(h, frame), support});
    }
    return found;
}

} // namespace yarngap
