#include "core/motion/guided_motion.h"

#include "core/motion/motion_choice.h"
#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>

namespace yarngap {

namespace {

/// From the outer corner of the top left pixel to its middle, from which pixels are counted here.
constexpr double half = 0.5;

double distance(const PicturePoint& a, const PicturePoint& b) {
    return std::hypot(a.x - b.x, a.y - b.y);
}

/// x' = h0 x + h1 y + h2, y' = h3 x + h4 y + h5.
using Affine = std::array<double, 6>;

PicturePoint moved(const Affine& h, const PicturePoint& p) {
    return {h[0] * p.x + h[1] * p.y + h[2], h[3] * p.x + h[4] * p.y + h[5]};
}

Affine translation(const GuidePair& pair) {
    return {1, 0, pair.to.x - pair.from.x, 0, 1, pair.to.y - pair.from.y};
}

Affine similarity(const GuidePair& p, const GuidePair& q) {
    // As complex numbers: to = z from + w.
    const double fx = q.from.x - p.from.x;
    const double fy = q.from.y - p.from.y;
    const double tx = q.to.x - p.to.x;
    const double ty = q.to.y - p.to.y;
    const double n = fx * fx + fy * fy;
    if (n == 0) return translation(p);
    const double re = (tx * fx + ty * fy) / n;
    const double im = (ty * fx - tx * fy) / n;
    return {re, -im, p.to.x - re * p.from.x + im * p.from.y, im, re, p.to.y - im * p.from.x - re * p.from.y};
}

Affine affine(std::span<const GuidePair> pairs) {
    const int n = static_cast<int>(pairs.size());
    cv::Mat from(n, 3, CV_64F);
    cv::Mat to(n, 2, CV_64F);
    for (int i = 0; i < n; ++i) {
        const GuidePair& pair = pairs[static_cast<std::size_t>(i)];
        from.at<double>(i, 0) = pair.from.x;
        from.at<double>(i, 1) = pair.from.y;
        from.at<double>(i, 2) = 1;
        to.at<double>(i, 0) = pair.to.x;
        to.at<double>(i, 1) = pair.to.y;
    }
    cv::Mat h;
    cv::solve(from, to, h, cv::DECOMP_SVD); // points on one line tell the least that fits
    return {h.at<double>(0, 0), h.at<double>(1, 0), h.at<double>(2, 0),
            h.at<double>(0, 1), h.at<double>(1, 1), h.at<double>(2, 1)};
}

/// What all pairs have in common, if they tell of one thing.
std::optional<Affine> commonMotion(std::span<const GuidePair> pairs, int width) {
    if (pairs.size() == 1) return translation(pairs[0]);
    const Affine h = pairs.size() == 2 ? similarity(pairs[0], pairs[1]) : affine(pairs);
    // The singular values of the linear part say how much it grows along its axes.
    const cv::Matx22d linear(h[0], h[1], h[3], h[4]);
    cv::Mat grows;
    cv::SVD::compute(linear, grows, cv::SVD::NO_UV);
    constexpr double most = 2;
    if (grows.at<double>(0) > most || grows.at<double>(1) < 1 / most || cv::determinant(linear) <= 0)
        return std::nullopt;
    constexpr double miss = 0.03;
    for (const GuidePair& pair : pairs)
        if (distance(moved(h, pair.from), pair.to) > miss * width) return std::nullopt;
    return h;
}

cv::Mat fieldOf(const Affine& h, const cv::Size& size) {
    cv::Mat field(size, CV_32FC2);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const PicturePoint p{x + half, y + half};
            const PicturePoint q = moved(h, p);
            field.at<cv::Vec2f>(y, x) = {static_cast<float>(q.x - p.x), static_cast<float>(q.y - p.y)};
        }
    return field;
}

/// Every pixel moves as the pair nearest to it does by `motions`, of each pair one.
cv::Mat fieldOfNearest(std::span<const GuidePair> pairs, std::span<const Affine> motions,
                       const cv::Size& size) {
    cv::Mat field(size, CV_32FC2);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const PicturePoint p{x + half, y + half};
            const auto nearest = std::ranges::min_element(
                pairs, {}, [&](const GuidePair& pair) { return distance(pair.from, p); });
            const PicturePoint q = moved(motions[static_cast<std::size_t>(nearest - pairs.begin())], p);
            field.at<cv::Vec2f>(y, x) = {static_cast<float>(q.x - p.x), static_cast<float>(q.y - p.y)};
        }
    return field;
}

std::vector<Affine> translations(std::span<const GuidePair> pairs) {
    std::vector<Affine> out(pairs.size());
    std::ranges::transform(pairs, out.begin(), translation);
    return out;
}

/// How unlike the pictures are around both points of a pair, light apart, in steps.
double unlikeness(const cv::Mat& a, const cv::Mat& b, const GuidePair& pair) {
    const int side = std::max(9, a.cols / 40) | 1;
    const auto around = [side](const cv::Mat& picture, const PicturePoint& p) {
        cv::Mat patch;
        cv::getRectSubPix(picture, {side, side},
                          {static_cast<float>(p.x - half), static_cast<float>(p.y - half)}, patch);
        patch.convertTo(patch, CV_32F);
        return cv::Mat(patch - cv::mean(patch));
    };
    return cv::norm(around(a, pair.from), around(b, pair.to), cv::NORM_L1) / (side * side);
}

/// A pixel near a pair, and how much it counts.
struct NearPixel {
    int x, y;
    double weight;
};

std::vector<NearPixel> pixelsNear(std::span<const GuidePair> pairs, const cv::Size& size) {
    const double sigma = size.width / 20.0;
    std::vector<NearPixel> out;
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            double nearest = std::numeric_limits<double>::max();
            for (const GuidePair& pair : pairs)
                nearest = std::min(nearest, distance(pair.from, {x + half, y + half}));
            if (nearest < 2 * sigma)
                out.push_back({x, y, std::exp(-nearest * nearest / (2 * sigma * sigma))});
        }
    return out;
}

/// Sums of the normal equations of one step of alignment; see alignedTo.
struct AlignmentStep {
    cv::Matx<double, 5, 5> left = cv::Matx<double, 5, 5>::zeros();
    cv::Vec<double, 5> right = cv::Vec<double, 5>::zeros();

    void add(const cv::Vec<double, 5>& slope, double difference, double weight) {
        for (int i = 0; i < 5; ++i) {
            for (int j = 0; j < 5; ++j)
                left(i, j) += weight * slope[i] * slope[j];
            right[i] -= weight * slope[i] * difference;
        }
    }
};

/// `h` with the small turn, growth and shift by which `from` fits `to` best near the pairs: Gauss-Newton with
/// Tukey's weights, and with a change of light, on pictures softened less and less. Hands miss by a few
/// pixels. What ends far from where the pairs point is not taken.
Affine alignedTo(const cv::Mat& from, const cv::Mat& to, const Affine& h, std::span<const GuidePair> pairs) {
    const std::vector<NearPixel> pixels = pixelsNear(pairs, from.size());
    if (pixels.empty()) return h;
    PicturePoint middle;
    for (const GuidePair& pair : pairs)
        middle = {middle.x + pair.from.x / static_cast<double>(pairs.size()),
                  middle.y + pair.from.y / static_cast<double>(pairs.size())};
    const double reach = from.cols / 10.0; // so that all unknowns are of one size
    Affine now = h;
    for (const double softness : {4.0, 2.0, 1.0}) {
        cv::Mat a;
        cv::Mat b;
        from.convertTo(a, CV_32F);
        to.convertTo(b, CV_32F);
        cv::GaussianBlur(a, a, {}, softness);
        cv::GaussianBlur(b, b, {}, softness);
        cv::Mat bx;
        cv::Mat by;
        constexpr double perPixel = 1.0 / 8; // of Sobel's sums
        cv::Sobel(b, bx, CV_32F, 1, 0, 3, perPixel);
        cv::Sobel(b, by, CV_32F, 0, 1, 3, perPixel);
        double light = 0;
        constexpr int steps = 10;
        for (int step = 0; step < steps; ++step) {
            AlignmentStep sums;
            for (const NearPixel& pixel : pixels) {
                const PicturePoint p{pixel.x + half, pixel.y + half};
                const PicturePoint q = moved(now, p);
                const double x = q.x - half;
                const double y = q.y - half;
                if (!(x >= 0 && y >= 0 && x < b.cols - 1 && y < b.rows - 1)) continue;
                const int ix = static_cast<int>(x);
                const int iy = static_cast<int>(y);
                const double fx = x - ix;
                const double fy = y - iy;
                const auto read = [&](const cv::Mat& m) {
                    const float* upper = m.ptr<float>(iy) + ix;
                    const float* lower = m.ptr<float>(iy + 1) + ix;
                    return (1 - fy) * ((1 - fx) * upper[0] + fx * upper[1]) +
                           fy * ((1 - fx) * lower[0] + fx * lower[1]);
                };
                const double difference = read(b) - a.at<float>(pixel.y, pixel.x) - light;
                constexpr double cutOff = 40; // steps
                const double share = difference / cutOff;
                if (std::abs(share) >= 1) continue;
                const double tukey = (1 - share * share) * (1 - share * share);
                const double gx = read(bx);
                const double gy = read(by);
                const double u = (q.x - moved(now, middle).x) / reach;
                const double v = (q.y - moved(now, middle).y) / reach;
                sums.add({gx, gy, gx * u + gy * v, gy * u - gx * v, -1}, difference, pixel.weight * tukey);
            }
            for (int i = 0; i < 5; ++i)
                sums.left(i, i) += 1e-3 * (1 + sums.left(i, i)); // where nothing tells, nothing changes
            const cv::Vec<double, 5> by5 = sums.left.solve(sums.right, cv::DECOMP_CHOLESKY);
            const PicturePoint centre = moved(now, middle);
            const double re = 1 + by5[2] / reach;
            const double im = by5[3] / reach;
            // After `now`: turned and grown about the middle, then shifted.
            const double dx = centre.x - re * centre.x + im * centre.y + by5[0];
            const double dy = centre.y - im * centre.x - re * centre.y + by5[1];
            now = {re * now[0] - im * now[3], re * now[1] - im * now[4], re * now[2] - im * now[5] + dx,
                   im * now[0] + re * now[3], im * now[1] + re * now[4], im * now[2] + re * now[5] + dy};
            light += by5[4];
            constexpr double still = 0.01; // pixels
            if (std::abs(by5[0]) + std::abs(by5[1]) + std::abs(by5[2]) + std::abs(by5[3]) < still) break;
        }
    }
    const double most = 0.015 * from.cols + 4;
    for (const GuidePair& pair : pairs)
        if (!(distance(moved(now, pair.from), moved(h, pair.from)) < most)) return h;
    return now;
}

bool contradict(const GuidePair& p, const GuidePair& q, int width) {
    const double apart = distance(p.from, q.from);
    const double later = distance(p.to, q.to);
    constexpr double nearby = 0.05;
    constexpr double stretch = 4;
    constexpr double least = 8; // pixels: nobody points more exactly than that at a small picture
    return std::min(apart, later) < nearby * width &&
           std::max(apart, later) > stretch * std::min(apart, later) + least;
}

std::vector<GuidePair> turnedRound(std::span<const GuidePair> pairs) {
    std::vector<GuidePair> out;
    for (const GuidePair& pair : pairs)
        out.push_back({pair.to, pair.from});
    return out;
}

/// How readily the guide is taken at each pixel, in steps, CV_32F.
cv::Mat favourOf(std::span<const GuidePair> pairs, const cv::Size& size) {
    constexpr double reach = 0.125; // of the width, at which little of it is left
    constexpr double most = 18;     // steps
    constexpr double elsewhere = -2;
    const double sigma = reach * size.width / 2;
    cv::Mat favour(size, CV_32F);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            double nearest = std::numeric_limits<double>::max();
            for (const GuidePair& pair : pairs)
                nearest = std::min(nearest, distance(pair.from, {x + half, y + half}));
            favour.at<float>(y, x) =
                static_cast<float>(elsewhere + most * std::exp(-nearest * nearest / (2 * sigma * sigma)));
        }
    return favour;
}

} // namespace

cv::Mat motionOfPairs(std::span<const GuidePair> pairs, const cv::Size& size) {
    const auto common = commonMotion(pairs, size.width);
    return common ? fieldOf(*common, size) : fieldOfNearest(pairs, translations(pairs), size);
}

std::vector<std::size_t> contradictingPairs(const cv::Mat& a, const cv::Mat& b,
                                            std::span<const GuidePair> pairs) {
    std::vector<std::size_t> out;
    std::vector<double> unlike(pairs.size(), -1);
    const auto unlikenessOf = [&](std::size_t i) {
        if (unlike[i] < 0) unlike[i] = unlikeness(a, b, pairs[i]);
        return unlike[i];
    };
    for (std::size_t i = 0; i < pairs.size(); ++i)
        for (std::size_t j = i + 1; j < pairs.size(); ++j)
            if (contradict(pairs[i], pairs[j], a.cols))
                out.push_back(unlikenessOf(i) > unlikenessOf(j) ? i : j);
    std::ranges::sort(out);
    const auto twice = std::ranges::unique(out);
    out.erase(twice.begin(), twice.end());
    return out;
}

std::vector<std::size_t> contradictingPairs(const Image& a, const Image& b,
                                            std::span<const GuidePair> pairs) {
    return contradictingPairs(analysisPicture(a, AnalyseOn::asIs), analysisPicture(b, AnalyseOn::asIs),
                              pairs);
}

void followGuide(const ColouredPicture& a, const ColouredPicture& b, cv::Mat& there, cv::Mat& back,
                 std::span<const GuidePair> pairs, const RefineFrom& refine, const std::stop_token& stop) {
    std::vector<GuidePair> ahead(pairs.begin(), pairs.end());
    const std::vector<std::size_t> wrong = contradictingPairs(a.luma, b.luma, pairs);
    for (auto at = wrong.rbegin(); at != wrong.rend(); ++at)
        ahead.erase(ahead.begin() + static_cast<std::ptrdiff_t>(*at));
    if (ahead.empty()) return;
    for (const bool isAhead : {true, false}) {
        const std::vector<GuidePair> own = isAhead ? ahead : turnedRound(ahead);
        cv::Mat& flow = isAhead ? there : back;
        const cv::Size size = flow.size();
        const cv::Mat& from = (isAhead ? a : b).luma;
        const cv::Mat& to = (isAhead ? b : a).luma;
        std::vector<cv::Mat> told;
        if (const auto common = commonMotion(own, size.width))
            told.push_back(fieldOf(alignedTo(from, to, *common, own), size));
        if (own.size() > 1) {
            std::vector<Affine> each = translations(own);
            for (std::size_t i = 0; i < own.size(); ++i)
                each[i] = alignedTo(from, to, each[i], std::span(own).subspan(i, 1));
            told.push_back(fieldOfNearest(own, each, size));
        }
        const cv::Mat favour = favourOf(own, size);
        std::vector<Candidate> candidates{{flow, 0, {}}};
        for (const cv::Mat& one : told) {
            throwIfStopped(stop);
            // Where nothing is to be seen, as inside flat colour, it goes as all the pairs say.
            constexpr float less = 4;
            const float readiness = &one == told.data() ? 0 : -less;
            candidates.push_back({one, readiness, favour});
            candidates.push_back({refine(one, isAhead), readiness - less, favour});
        }
        flow = chooseMotion(isAhead ? a : b, isAhead ? b : a, candidates, {}, stop);
    }
}

} // namespace yarngap
