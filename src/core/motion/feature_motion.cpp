#include "core/motion/feature_motion.h"

#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <optional>
#include <random>
#include <utility>

namespace yarngap {

namespace {

constexpr int mostAcross = 480; // pixels
constexpr int smallestPicture = 128;
constexpr int radius = 8; // of what describes a feature

struct Features {
    std::vector<cv::Point2f> places;
    cv::Mat descriptions; ///< a row each, CV_32F, of mean 0 and length 1
};

Features featuresOf(const cv::Mat& picture) {
    cv::Mat soft;
    cv::GaussianBlur(picture, soft, {}, 1.0);
    constexpr int most = 500;
    constexpr double least = 0.01; // of the strongest corner
    constexpr double apart = 6;
    std::vector<cv::Point2f> corners;
    cv::goodFeaturesToTrack(soft, corners, most, least, apart);
    Features out;
    for (const cv::Point2f& at : corners) {
        const cv::Rect about(cvRound(at.x) - radius, cvRound(at.y) - radius, 2 * radius, 2 * radius);
        if ((about & cv::Rect({0, 0}, soft.size())) != about) continue;
        cv::Mat row;
        soft(about).convertTo(row, CV_32F);
        row -= cv::mean(row);
        const double length = cv::norm(row);
        constexpr double faint = 2 * radius * 2; // two steps a pixel
        if (length < faint) continue;
        out.places.push_back(at);
        out.descriptions.push_back(cv::Mat(row.reshape(1, 1) / length));
    }
    return out;
}

/// Whether too many features of `from` look otherwise where `flow` brings them for all to be well.
bool isUnexplained(const Features& from, const cv::Mat& to, const cv::Mat& flow) {
    if (from.places.empty()) return false;
    cv::Mat soft;
    cv::GaussianBlur(to, soft, {}, 1.0);
    constexpr float alike = 0.7F;
    constexpr float share = 0.1F;
    float missed = 0;
    for (std::size_t i = 0; i < from.places.size(); ++i) {
        const cv::Point2f& at = from.places[i];
        const auto& v = flow.at<cv::Vec2f>(cvRound(at.y), cvRound(at.x));
        cv::Mat there;
        cv::getRectSubPix(soft, {2 * radius, 2 * radius}, {at.x + v[0] - 0.5F, at.y + v[1] - 0.5F}, there,
                          CV_32F);
        there -= cv::mean(there);
        const auto own = from.descriptions.row(static_cast<int>(i));
        const double length = cv::norm(there);
        if (length <= 0 || own.dot(there.reshape(1, 1)) < alike * length) ++missed;
    }
    return missed >= share * static_cast<float>(from.places.size());
}

struct Match {
    cv::Point2f from, to;
};

std::vector<Match> matched(const Features& a, const Features& b) {
    std::vector<Match> out;
    if (a.places.empty() || b.places.empty()) return out;
    const cv::Mat likeness = a.descriptions * b.descriptions.t();
    /// The best of a line of likeness if nothing else comes near it.
    const auto bestOf = [](const cv::Mat& line) {
        constexpr float alike = 0.75F;
        constexpr float clear = 1.4F; // times as far off is the next one
        int best = -1;
        float first = -1;
        float second = -1;
        for (int i = 0; i < line.cols; ++i) {
            const float value = line.at<float>(i);
            if (value > first) {
                second = std::exchange(first, value);
                best = i;
            } else {
                second = std::max(second, value);
            }
        }
        // 1 − likeness is half the squared distance of both descriptions.
        return first >= alike && 1 - second >= clear * (1 - first) ? best : -1;
    };
    const cv::Mat back = likeness.t();
    for (int i = 0; i < likeness.rows; ++i) {
        const int j = bestOf(likeness.row(i));
        if (j >= 0 && bestOf(back.row(j)) == i)
            out.push_back({a.places[static_cast<std::size_t>(i)], b.places[static_cast<std::size_t>(j)]});
    }
    return out;
}

/// (h0 h1 h2; h3 h4 h5) that brings `from` nearest to `to`.
std::optional<cv::Matx23d> fitted(const std::vector<Match>& matches) {
    cv::Matx33d normal = cv::Matx33d::zeros();
    cv::Matx<double, 3, 2> right = cv::Matx<double, 3, 2>::zeros();
    for (const Match& m : matches) {
        const cv::Vec3d p(m.from.x, m.from.y, 1);
        normal += p * p.t();
        right += p * cv::Matx12d(m.to.x, m.to.y);
    }
    bool regular = false;
    const cv::Matx33d inverse = normal.inv(cv::DECOMP_LU, &regular);
    if (!regular) return {};
    return (inverse * right).t();
}

/// How far from its match `motion` brings a feature.
double missedBy(const cv::Matx23d& motion, const Match& match) {
    const cv::Vec2d there = motion * cv::Vec3d(match.from.x, match.from.y, 1);
    return std::hypot(there[0] - match.to.x, there[1] - match.to.y);
}

constexpr double nearEnough = 4; // pixels, up to which a match follows a motion

std::vector<Match> following(const std::vector<Match>& matches, const cv::Matx23d& motion, double within) {
    std::vector<Match> out;
    std::copy_if(matches.begin(), matches.end(), std::back_inserter(out),
                 [&](const Match& match) { return missedBy(motion, match) < within; });
    return out;
}

/// The similarity that brings two features to their matches, unless they lie too near to each other to tell.
std::optional<cv::Matx23d> similarity(const Match& one, const Match& other) {
    const cv::Point2d d = other.from - one.from;
    const cv::Point2d e = other.to - one.to;
    const double square = d.dot(d);
    constexpr double apart = 30;
    if (square < apart * apart) return {};
    const double c = d.dot(e) / square;
    const double s = d.cross(e) / square;
    const double scale = std::hypot(c, s);
    if (scale < 0.5 || scale > 2) return {};
    return cv::Matx23d(c, -s, one.to.x - c * one.from.x + s * one.from.y, //
                       s, c, one.to.y - s * one.from.x - c * one.from.y);
}

/// The motion that most matches follow, and those that do.
std::optional<std::pair<cv::Matx23d, std::vector<Match>>> mostCommon(const std::vector<Match>& matches) {
    constexpr int draws = 600;
    std::mt19937 random(1); // NOLINT(cert-msc*): always the same draws
    std::vector<Match> best;
    for (int i = 0; i < draws; ++i) {
        const Match& one = matches[random() % matches.size()];
        const Match& other = matches[random() % matches.size()];
        const auto motion = similarity(one, other);
        if (!motion) continue;
        std::vector<Match> all = following(matches, *motion, nearEnough);
        if (all.size() > best.size()) best = std::move(all);
    }
    constexpr std::size_t enough = 8;
    if (best.size() < enough || 5 * best.size() < matches.size()) return {};
    std::optional<cv::Matx23d> motion = fitted(best);
    if (motion) motion = fitted(best = following(matches, *motion, nearEnough / 2));
    if (!motion || best.size() < enough) return {};
    return std::pair(*motion, std::move(best));
}

/// As a motion of pixels of a picture `scale` times as large.
PlaneMotion enlarged(const cv::Matx23d& m, const cv::Vec2d& scale) {
    PlaneMotion out;
    out.h = {m(0, 0),
             m(0, 1) * scale[0] / scale[1],
             m(0, 2) * scale[0],
             m(1, 0) * scale[1] / scale[0],
             m(1, 1),
             m(1, 2) * scale[1],
             0,
             0};
    return out;
}

} // namespace

std::vector<FeatureMotion> featureMotions(const cv::Mat& from, const cv::Mat& to, const cv::Mat& flow,
                                          const std::stop_token& stop) {
    if (std::min(from.cols, from.rows) < smallestPicture) return {};
    const double shrink = std::min(1.0, static_cast<double>(mostAcross) / std::max(from.cols, from.rows));
    const cv::Size size(cvRound(from.cols * shrink), cvRound(from.rows * shrink));
    const cv::Vec2d scale(static_cast<double>(from.cols) / size.width,
                          static_cast<double>(from.rows) / size.height);
    cv::Mat a;
    cv::Mat b;
    cv::Mat given;
    cv::resize(from, a, size, 0, 0, cv::INTER_AREA);
    cv::resize(to, b, size, 0, 0, cv::INTER_AREA);
    cv::resize(flow, given, size, 0, 0, cv::INTER_AREA);
    cv::divide(given, cv::Scalar(scale[0], scale[1]), given);
    const Features own = featuresOf(a);
    if (!isUnexplained(own, b, given)) return {};
    throwIfStopped(stop);
    std::vector<Match> left = matched(own, featuresOf(b));
    const auto matches = static_cast<double>(left.size());
    throwIfStopped(stop);
    std::vector<FeatureMotion> out;
    constexpr std::size_t most = 2;
    constexpr int looks = 3; // one of them may be known already
    for (int look = 0; look < looks && !left.empty() && out.size() < most; ++look) {
        const auto found = mostCommon(left);
        if (!found) break;
        const cv::Matx23d& m = found->first;
        const std::vector<Match>& followers = found->second;
        const auto missed = std::count_if(followers.begin(), followers.end(), [&](const Match& one) {
            const auto& v = given.at<cv::Vec2f>(cvRound(one.from.y), cvRound(one.from.x));
            constexpr double off = 3;
            return std::hypot(one.from.x + v[0] - one.to.x, one.from.y + v[1] - one.to.y) > off;
        });
        constexpr double least = 0.1; // of its area that a thing keeps
        const double determinant = m(0, 0) * m(1, 1) - m(0, 1) * m(1, 0);
        if (2 * static_cast<std::size_t>(missed) > followers.size() && determinant > least) {
            cv::Matx23d back;
            cv::invertAffineTransform(m, back);
            FeatureMotion both{enlarged(m, scale), enlarged(back, scale)};
            both.there.support = both.back.support = static_cast<double>(followers.size()) / matches;
            out.push_back(both);
        }
        std::erase_if(left, [&](const Match& one) { return missedBy(m, one) < nearEnough; });
        throwIfStopped(stop);
    }
    return out;
}

} // namespace yarngap
