// The camera's path from the pictures.

#include "core/error.h"
#include "core/finish/camera_path.h"
#include "core/mending/carried_outlines.h"
#include "core/motion/aligned_region.h"
#include "core/motion/analysis_picture.h"
#include "core/motion/dominant_motion.h"
#include "core/motion/flow_estimator.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

namespace yarngap {

namespace {

/// A coarse field in its own pixels, CV_32FC2.
cv::Mat inOwnPixels(const VectorField& field, double scale) {
    const cv::Mat all(field.height, field.width, CV_32FC2, const_cast<float*>(field.xy.data()));
    return all * scale;
}

/// Vectors as places from and to, in pixels of the source from the middle of its picture.
struct Going {
    std::vector<PicturePoint> from, to;
};

/// Vectors of places with texture that lead back to where they begin.
Going trustedOnes(const cv::Mat& flow, const cv::Mat& back, const cv::Mat& picture, double perPixel) {
    cv::Mat dx;
    cv::Mat dy;
    cv::Mat strength;
    cv::Sobel(picture, dx, CV_32F, 1, 0);
    cv::Sobel(picture, dy, CV_32F, 0, 1);
    cv::magnitude(dx, dy, strength);
    cv::boxFilter(strength, strength, -1, {5, 5});
    constexpr float textured = 16; // of Sobel's sums: a slope of two steps a pixel
    constexpr int across = 160;
    const int step = std::max(2, flow.cols / across);
    Going out;
    for (int y = step; y < flow.rows - step; y += step)
        for (int x = step; x < flow.cols - step; x += step) {
            if (strength.at<float>(y, x) < textured) continue;
            const auto& v = flow.at<cv::Vec2f>(y, x);
            const float tx = static_cast<float>(x) + v[0];
            const float ty = static_cast<float>(y) + v[1];
            if (!(tx >= 0 && ty >= 0 && tx < static_cast<float>(flow.cols - 1) &&
                  ty < static_cast<float>(flow.rows - 1)))
                continue;
            const auto& r = back.at<cv::Vec2f>(static_cast<int>(ty + 0.5F), static_cast<int>(tx + 0.5F));
            if (cv::norm(v + r) > 0.5 + 0.05 * cv::norm(v)) continue;
            const auto place = [&](float px, float py) {
                return PicturePoint{(static_cast<double>(px) + 0.5 - flow.cols / 2.0) * perPixel,
                                    (static_cast<double>(py) + 0.5 - flow.rows / 2.0) * perPixel};
            };
            out.from.push_back(place(static_cast<float>(x), static_cast<float>(y)));
            out.to.push_back(place(tx, ty));
        }
    return out;
}

cv::Mat coarseOf(const Image& image, cv::Size size) {
    cv::Mat picture = analysisPicture(image, AnalyseOn::asIs);
    if (picture.size() != size) cv::resize(picture, picture, size, 0, 0, cv::INTER_AREA);
    return picture;
}

/// The motion as the pictures themselves fit best where they follow it.
Similarity refined(const Similarity& start, const Going& going, const std::vector<double>& weights,
                   const cv::Mat& a, const cv::Mat& b, double scale) {
    const double cx = a.cols / 2.0;
    const double cy = a.rows / 2.0;
    std::vector<WeighedPixel> region;
    constexpr double least = 0.2;
    for (std::size_t i = 0; i < weights.size(); ++i)
        if (weights[i] > least)
            region.push_back({static_cast<int>(going.from[i].x * scale + cx),
                              static_cast<int>(going.from[i].y * scale + cy), weights[i]});
    // From places about the middle to places from the corner, and back.
    const Affine told{start.a, -start.b, cx + start.dx * scale - start.a * cx + start.b * cy,
                      start.b, start.a,  cy + start.dy * scale - start.b * cx - start.a * cy};
    const Affine h = alignedRegion(a, b, told, region);
    Similarity out{.a = h[0], .b = h[3]};
    out.dx = (h[2] - cx + h[0] * cx + h[1] * cy) / scale;
    out.dy = (h[5] - cy + h[3] * cx + h[4] * cy) / scale;
    // It changes little, or it went astray.
    constexpr double most = 1.5; // coarse pixels
    const bool isNear = std::hypot(out.dx - start.dx, out.dy - start.dy) * scale < most &&
                        std::hypot(out.a - start.a, out.b - start.b) * a.cols / 2 < most;
    return isNear ? out : start;
}

/// Whether both pictures show the same where the motion brings one to the other: the correlation of
/// brightness over all places that count.
bool showTheSame(const Similarity& step, const Going& going, const cv::Mat& a, const cv::Mat& b,
                 double scale) {
    double n = 0;
    double sa = 0;
    double sb = 0;
    double saa = 0;
    double sbb = 0;
    double sab = 0;
    for (const PicturePoint& from : going.from) {
        const PicturePoint to = step(from);
        const int bx = static_cast<int>(to.x * scale + b.cols / 2.0);
        const int by = static_cast<int>(to.y * scale + b.rows / 2.0);
        if (bx < 0 || by < 0 || bx >= b.cols || by >= b.rows) continue;
        const double va = a.at<std::uint8_t>(static_cast<int>(from.y * scale + a.rows / 2.0),
                                             static_cast<int>(from.x * scale + a.cols / 2.0));
        const double vb = b.at<std::uint8_t>(by, bx);
        n += 1;
        sa += va;
        sb += vb;
        saa += va * va;
        sbb += vb * vb;
        sab += va * vb;
    }
    const double spread = std::sqrt(std::max(0.0, saa - sa * sa / n) * std::max(0.0, sbb - sb * sb / n));
    constexpr double least = 0.3;
    return n > 0 && spread > 0 && (sab - sa * sb / n) / spread > least;
}

/// How things go between two frames, about the middle of the picture; absent where nothing tells.
std::optional<Similarity> stepOf(const Vectors& v, const Image& first, const Image& second) {
    const double scale = static_cast<double>(v.forward.width) / first.width();
    const cv::Mat flow = inOwnPixels(v.forward, scale);
    const cv::Mat back = inOwnPixels(v.backward, scale);
    const cv::Mat picture = coarseOf(first, flow.size());
    const Going going = trustedOnes(flow, back, picture, 1 / scale);
    constexpr std::size_t few = 40;
    if (going.from.size() < few) return std::nullopt;
    const std::vector<PlaneMotion> shared = dominantMotions(flow, back, picture, 1);
    if (shared.empty()) return std::nullopt;
    // The motion that most share, as a similarity: then those that follow it tell it more exactly.
    std::vector<double> weights(going.from.size());
    const auto off = [&](std::size_t i, const PicturePoint& at) {
        return std::hypot(at.x - going.to[i].x, at.y - going.to[i].y) * scale;
    };
    const auto weigh = [](double distance, double reach) {
        const double share = distance / reach;
        return share < 1 ? (1 - share * share) * (1 - share * share) : 0;
    };
    constexpr double near = 2; // coarse pixels
    for (std::size_t i = 0; i < weights.size(); ++i) {
        const PicturePoint& p = going.from[i];
        const cv::Vec2f by =
            shared.front().at(p.x * scale + flow.cols / 2.0 - 0.5, p.y * scale + flow.rows / 2.0 - 0.5);
        weights[i] = weigh(
            off(i, {p.x + static_cast<double>(by[0]) / scale, p.y + static_cast<double>(by[1]) / scale}),
            near);
    }
    Similarity found = fittedSimilarity(going.from, going.to, weights);
    constexpr int turns = 8;
    for (int turn = 0; turn < turns; ++turn) {
        // Where all is one plane few pixels are off, and what goes its own way is told apart; where there are
        // several layers the mean of them is steadier than one alone.
        std::vector<double> distances(weights.size());
        for (std::size_t i = 0; i < weights.size(); ++i)
            distances[i] = off(i, found(going.from[i]));
        std::vector<double> sorted = distances;
        const auto middle = sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2);
        std::nth_element(sorted.begin(), middle, sorted.end());
        constexpr double tukey = 4.685 * 1.4826;
        const double reach = std::clamp(tukey * *middle, 0.25, 1.0);
        double sum = 0;
        for (std::size_t i = 0; i < weights.size(); ++i)
            sum += weights[i] = weigh(distances[i], reach);
        if (sum < few / 2.0) return std::nullopt;
        found = fittedSimilarity(going.from, going.to, weights);
    }
    const cv::Mat next = coarseOf(second, flow.size());
    found = refined(found, going, weights, picture, next, scale);
    if (!showTheSame(found, going, picture, next, scale)) return std::nullopt;
    return found;
}

/// `point` after one more step of the camera.
CameraPoint afterStep(const CameraPoint& point, const Similarity& step) {
    CameraPoint out = point;
    out.x = step.a * point.x - step.b * point.y + step.dx;
    out.y = step.b * point.x + step.a * point.y + step.dy;
    out.turn = point.turn + std::atan2(step.b, step.a);
    out.grow = point.grow + std::log(std::hypot(step.a, step.b));
    out.begins = false;
    return out;
}

} // namespace

CameraPath measuredCamera(ShotFrames& frames, const std::shared_ptr<VectorStore>& vectors, std::int64_t first,
                          std::int64_t last, std::span<const std::int64_t> cuts, const Progress& progress,
                          const std::stop_token& stop) {
    CameraPath path;
    ImagePtr before;
    for (std::int64_t n = first; n <= last; ++n) {
        throwIfStopped(stop);
        const ImagePtr frame = frames.frame(n, stop);
        CameraPoint point{.frame = n, .begins = true};
        if (before && !std::ranges::binary_search(cuts, n - 1)) {
            const VectorsPtr v =
                vectors ? vectors->coarse(pairOf(frames, n - 1, n), *before, *frame, AnalyseOn::asIs, stop)
                        : std::make_shared<const Vectors>(
                              estimateCoarseFlow(*before, *frame, AnalyseOn::asIs, stop));
            if (const auto step = stepOf(*v, *before, *frame)) {
                point = afterStep(path.back(), *step);
                point.frame = n;
            }
        }
        path.push_back(point);
        before = frame;
        if (progress) progress(static_cast<double>(n - first + 1) / static_cast<double>(last - first + 1));
    }
    return path;
}

} // namespace yarngap
