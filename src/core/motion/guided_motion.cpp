#include "core/motion/guided_motion.h"

#include "core/image/fill_from_around.h"
#include "core/motion/aligned_region.h"
#include "core/motion/motion_choice.h"
#include "core/motion/motion_trust.h"
#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>

namespace yarngap {

namespace {

double distance(const PicturePoint& a, const PicturePoint& b) {
    return std::hypot(a.x - b.x, a.y - b.y);
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
            const PicturePoint p{x + halfPixel, y + halfPixel};
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
            const PicturePoint p{x + halfPixel, y + halfPixel};
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
                          {static_cast<float>(p.x - halfPixel), static_cast<float>(p.y - halfPixel)}, patch);
        patch.convertTo(patch, CV_32F);
        return cv::Mat(patch - cv::mean(patch));
    };
    return cv::norm(around(a, pair.from), around(b, pair.to), cv::NORM_L1) / (side * side);
}

std::vector<WeighedPixel> pixelsNear(std::span<const GuidePair> pairs, const cv::Size& size) {
    const double sigma = size.width / 20.0;
    const int step = std::max(1, size.width / 640); // fewer of a large picture tell enough
    std::vector<WeighedPixel> out;
    for (int y = 0; y < size.height; y += step)
        for (int x = 0; x < size.width; x += step) {
            double nearest = std::numeric_limits<double>::max();
            for (const GuidePair& pair : pairs)
                nearest = std::min(nearest, distance(pair.from, {x + halfPixel, y + halfPixel}));
            if (nearest < 2 * sigma)
                out.push_back({x, y, std::exp(-nearest * nearest / (2 * sigma * sigma))});
        }
    return out;
}

/// `h` as it fits the pictures best near the pairs: hands miss by a few pixels. What ends far from where the
/// pairs point is not taken.
Affine alignedTo(const cv::Mat& from, const cv::Mat& to, const Affine& h, std::span<const GuidePair> pairs) {
    const Affine now = alignedRegion(from, to, h, pixelsNear(pairs, from.size()));
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

/// How far a place is from the nearest pair, or from the line between two pairs of one thing.
double distanceTo(std::span<const GuidePair> pairs, bool areOneThing, const PicturePoint& p) {
    double nearest = std::numeric_limits<double>::max();
    constexpr std::size_t few = 8;
    for (std::size_t i = 0; i < pairs.size(); ++i) {
        const PicturePoint& a = pairs[i].from;
        nearest = std::min(nearest, distance(a, p));
        for (std::size_t j = i + 1; areOneThing && pairs.size() <= few && j < pairs.size(); ++j) {
            const double dx = pairs[j].from.x - a.x;
            const double dy = pairs[j].from.y - a.y;
            const double length = dx * dx + dy * dy;
            if (length == 0) continue;
            const double s = std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / length, 0.0, 1.0);
            nearest = std::min(nearest, distance({a.x + s * dx, a.y + s * dy}, p));
        }
    }
    return nearest;
}

/// How readily the guide is taken at each pixel, in steps, CV_32F: near the pairs, where the estimate is not
/// to be trusted.
cv::Mat favourOf(std::span<const GuidePair> pairs, const TrustField& trust) {
    constexpr double reach = 0.125; // of the width, at which little of it is left
    constexpr double most = 18;     // steps
    constexpr double elsewhere = -2;
    const cv::Size size(trust.width, trust.height);
    const bool areOneThing = commonMotion(pairs, size.width).has_value();
    const double sigma = reach * size.width / 2;
    const cv::Mat all(size, CV_8U, const_cast<std::uint8_t*>(trust.values.data())); // only read
    cv::Mat smooth;
    cv::blur(all, smooth, {7, 7});
    cv::Mat favour(size, CV_32F);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const double away = distanceTo(pairs, areOneThing, {x + halfPixel, y + halfPixel});
            const double doubted = 1 - smooth.at<std::uint8_t>(y, x) / 255.0;
            favour.at<float>(y, x) =
                static_cast<float>(elsewhere + most * doubted * std::exp(-away * away / (2 * sigma * sigma)));
        }
    return favour;
}

/// Where the two directions of a motion lead back to where they began, CV_8U, 0 or 255.
cv::Mat agreeing(const cv::Mat& own, const cv::Mat& back) {
    cv::Mat out(own.size(), CV_8U, cv::Scalar(0));
    for (int y = 0; y < own.rows; ++y)
        for (int x = 0; x < own.cols; ++x) {
            const auto v = own.at<cv::Vec2f>(y, x);
            const int tx = cvRound(static_cast<float>(x) + v[0]);
            const int ty = cvRound(static_cast<float>(y) + v[1]);
            if (tx < 0 || ty < 0 || tx >= own.cols || ty >= own.rows) continue;
            const cv::Vec2f off = v + back.at<cv::Vec2f>(ty, tx);
            constexpr double fine = 2;
            constexpr double share = 0.08;
            if (cv::norm(off) <= fine + share * cv::norm(v)) out.at<std::uint8_t>(y, x) = 255;
        }
    return out;
}

/// Pixels whose motion is another than it was, CV_8U.
cv::Mat changedFrom(const cv::Mat& was, const cv::Mat& is) {
    std::array<cv::Mat, 2> parts;
    cv::split(is - was, parts.data());
    cv::Mat length;
    cv::magnitude(parts[0], parts[1], length);
    constexpr double much = 2; // pixels
    return length > much;
}

/// What the subject hides in the other picture has no place there, and whatever was found for it is wrong:
/// near the guided subject such pixels go with what does agree around them, the subject left out.
void fillHidden(cv::Mat& flow, const cv::Mat& agrees, const cv::Mat& guided, const cv::Mat& nearby) {
    cv::Mat unknown;
    cv::bitwise_and(nearby, ~agrees, unknown);
    const int patch = std::min(31, std::max(5, flow.cols / 60) | 1);
    cv::medianBlur(unknown, unknown, patch); // no holes in the subject, no islands beside it
    if (cv::countNonZero(unknown) == 0) return;
    cv::Mat known;
    cv::bitwise_and(agrees, ~guided, known);
    if (cv::countNonZero(known) == 0) return;
    cv::Mat isKnown;
    known.convertTo(isKnown, CV_32F, 1.0 / 255);
    std::array<cv::Mat, 2> parts;
    cv::split(flow, parts.data());
    for (cv::Mat& part : parts) {
        cv::Mat filled = part.clone();
        fillFromAround(filled, isKnown);
        filled.copyTo(part, unknown);
    }
    cv::merge(parts.data(), parts.size(), flow);
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
    out.erase(std::unique(out.begin(), out.end()), out.end());
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
    const cv::Mat thereBefore = there;
    const cv::Mat backBefore = back;
    const TrustBothWays trust = trustOf(thereBefore, backBefore, a.luma, b.luma);
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
        const cv::Mat favour = favourOf(own, isAhead ? trust.forward : trust.backward);
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
    const cv::Mat guidedA = changedFrom(thereBefore, there);
    const cv::Mat guidedB = changedFrom(backBefore, back);
    cv::Mat nearby;
    cv::bitwise_or(guidedA, guidedB, nearby);
    const int reach = std::max(3, there.cols / 60);
    cv::dilate(nearby, nearby, cv::Mat::ones(2 * reach + 1, 2 * reach + 1, CV_8U));
    const cv::Mat agreesA = agreeing(there, back);
    const cv::Mat agreesB = agreeing(back, there);
    throwIfStopped(stop);
    fillHidden(there, agreesA, guidedA, nearby);
    fillHidden(back, agreesB, guidedB, nearby);
}

} // namespace yarngap
