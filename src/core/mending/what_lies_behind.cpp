#include "core/mending/what_lies_behind.h"

#include "core/motion/aligned_region.h"
#include "core/motion/analysis_picture.h"
#include "core/motion/dominant_motion.h"
#include "core/progress.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <utility>

namespace yarngap {

namespace {

PicturePoint moved(const cv::Matx33d& h, const PicturePoint& p) {
    const cv::Vec3d q = h * cv::Vec3d(p.x, p.y, 1);
    return {q[0] / q[2], q[1] / q[2]};
}

cv::Matx33d matrixOf(const std::array<double, 9>& h) {
    return cv::Matx33d(h.data());
}

/// A field as OpenCV has it, in its own pixels.
cv::Mat matOf(const VectorField& field, double perX, double perY) {
    cv::Mat out(field.height, field.width, CV_32FC2);
    for (int y = 0; y < field.height; ++y)
        for (int x = 0; x < field.width; ++x) {
            const float* v = field.row(y) + 2 * static_cast<std::ptrdiff_t>(x);
            out.at<cv::Vec2f>(y, x) = {static_cast<float>(v[0] / perX), static_cast<float>(v[1] / perY)};
        }
    return out;
}

/// Frames in the order in which they are asked, by their distance from the place in between: all near ones,
/// fewer far ones.
std::vector<std::int64_t> distances() {
    std::vector<std::int64_t> out;
    for (std::int64_t d = 1; d <= WhatLiesBehind::reach; d += d < 6 ? 1 : d < 12 ? 2 : 4)
        out.push_back(d);
    return out;
}

/// How a place in the picture is found in frame after frame to one side.
class Way {
  public:
    explicit Way(std::int64_t frame)
        : frame_(frame) {}
    [[nodiscard]] std::int64_t frame() const { return frame_; }
    [[nodiscard]] PicturePoint operator()(const PicturePoint& p) const { return moved(h_, p); }
    void step(int direction, const cv::Matx33d& plane) {
        h_ = (direction > 0 ? plane : plane.inv()) * h_;
        frame_ += direction;
    }

  private:
    std::int64_t frame_;
    cv::Matx33d h_ = cv::Matx33d::eye();
};

/// Gathers what is `left` of the places from the frames that show the middle of all values of luma there.
void takeMiddle(ShotFrames& source, const std::vector<Way>& ways, const std::vector<PicturePoint>& places,
                const std::vector<float>& left, GatheredPicture& gathered, const std::stop_token& stop) {
    // Evenly over time: of many frames close to each other, all might show what hides the place.
    std::vector<Way> inOrder = ways;
    std::ranges::sort(inOrder, {}, &Way::frame);
    constexpr std::int64_t most = 12; // steps from the first to the last
    const std::int64_t apart = (inOrder.back().frame() - inOrder.front().frame()) / most;
    std::vector<Way> asked;
    for (const Way& way : inOrder)
        if (asked.empty() || way.frame() - asked.back().frame() >= apart) asked.push_back(way);
    std::vector<std::vector<std::uint8_t>> lumas;
    std::vector<ImagePtr> pictures;
    for (const Way& way : asked) {
        throwIfStopped(stop);
        pictures.push_back(source.frame(way.frame(), stop));
        const cv::Mat luma = analysisPicture(*pictures.back(), AnalyseOn::asIs);
        std::vector<std::uint8_t>& values = lumas.emplace_back(places.size());
        for (std::size_t i = 0; i < places.size(); ++i) {
            const PicturePoint p = way(places[i]);
            values[i] = luma.at<std::uint8_t>(std::clamp(static_cast<int>(p.y), 0, luma.rows - 1),
                                              std::clamp(static_cast<int>(p.x), 0, luma.cols - 1));
        }
    }
    std::vector<std::size_t> chosen(places.size());
    std::vector<std::pair<std::uint8_t, std::size_t>> sorted(asked.size());
    for (std::size_t i = 0; i < places.size(); ++i) {
        for (std::size_t k = 0; k < asked.size(); ++k)
            sorted[k] = {lumas[k][i], k};
        const auto middle = sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2);
        std::nth_element(sorted.begin(), middle, sorted.end());
        chosen[i] = middle->second;
    }
    for (std::size_t k = 0; k < asked.size(); ++k) {
        PlacesIn from;
        for (std::size_t i = 0; i < places.size(); ++i) {
            const PicturePoint p = asked[k](places[i]);
            from.x.push_back(static_cast<float>(p.x));
            from.y.push_back(static_cast<float>(p.y));
            from.share.push_back(chosen[i] == k ? left[i] : 0.0F);
        }
        gathered.add(*pictures[k], from);
    }
}

/// The motion as most of both pictures fit best; left as it is where the view changes too much for that.
cv::Matx33d finely(const Image& from, const Image& to, const cv::Matx33d& h) {
    cv::Mat a = analysisPicture(from, AnalyseOn::asIs);
    cv::Mat b = analysisPicture(to, AnalyseOn::asIs);
    constexpr double least = 0.999; // of what perspective changes over the picture
    const double depth = 1 + std::abs(h(2, 0)) * a.cols + std::abs(h(2, 1)) * a.rows;
    if (1 / depth < least) return h;
    constexpr int widest = 960;
    const double scale = std::min(1.0, static_cast<double>(widest) / a.cols);
    if (scale < 1)
        for (cv::Mat* m : {&a, &b})
            cv::resize(*m, *m, {}, scale, scale, cv::INTER_AREA);
    constexpr double enough = 20'000; // pixels
    const int step = std::max(1, static_cast<int>(std::sqrt(a.cols * a.rows / enough)));
    std::vector<WeighedPixel> all;
    for (int y = step / 2; y < a.rows; y += step)
        for (int x = step / 2; x < a.cols; x += step)
            all.push_back({x, y, 1});
    const Affine told{h(0, 0), h(0, 1), h(0, 2) * scale, h(1, 0), h(1, 1), h(1, 2) * scale};
    const Affine found = alignedRegion(a, b, told, all);
    const PicturePoint middle{a.cols / 2.0, a.rows / 2.0};
    const PicturePoint was = moved(told, middle);
    const PicturePoint is = moved(found, middle);
    constexpr double most = 4; // pixels
    if (!(std::hypot(is.x - was.x, is.y - was.y) < most)) return h;
    return {found[0], found[1], found[2] / scale, found[3], found[4], found[5] / scale, 0, 0, 1};
}

} // namespace

WhatLiesBehind::WhatLiesBehind(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                               std::vector<std::int64_t> cuts,
                               std::shared_ptr<const CarriedOutlines> outlines)
    : source_(std::move(source))
    , vectors_(std::move(vectors))
    , cuts_(std::move(cuts))
    , outlines_(std::move(outlines)) {}

bool WhatLiesBehind::isCut(std::int64_t gap) const {
    return gap < 0 || gap + 1 >= source_->frames() || std::ranges::binary_search(cuts_, gap);
}

WhatLiesBehind::Plane WhatLiesBehind::camera(std::int64_t gap, const std::stop_token& stop) const {
    {
        const std::scoped_lock lock(mutex_);
        if (const auto known = known_.find(gap); known != known_.end()) return known->second;
    }
    throwIfStopped(stop);
    const ImagePtr a = source_->frame(gap, stop);
    const ImagePtr b = source_->frame(gap + 1, stop);
    const VectorsPtr v = vectors_->coarse(pairOf(*source_, gap, gap + 1), *a, *b, AnalyseOn::asIs, stop);
    const double perX = static_cast<double>(a->width()) / v->forward.width;
    const double perY = static_cast<double>(a->height()) / v->forward.height;
    cv::Mat small;
    cv::resize(analysisPicture(*a, AnalyseOn::asIs), small, {v->forward.width, v->forward.height}, 0, 0,
               cv::INTER_AREA);
    const auto found =
        dominantMotions(matOf(v->forward, perX, perY), matOf(v->backward, perX, perY), small, 1);
    Plane motion{1, 0, 0, 0, 1, 0, 0, 0, 1};
    if (!found.empty()) {
        // From its pixels, counted from the middle of the first, to those of the picture, counted from the
        // outer corner.
        const cv::Matx33d toSmall(1 / perX, 0, -0.5, 0, 1 / perY, -0.5, 0, 0, 1);
        const auto& h = found.front().h;
        const cv::Matx33d own(h[0], h[1], h[2], h[3], h[4], h[5], h[6], h[7], 1);
        const cv::Matx33d full = finely(*a, *b, toSmall.inv() * own * toSmall);
        std::copy(std::begin(full.val), std::end(full.val), motion.begin());
    }
    const std::scoped_lock lock(mutex_);
    constexpr std::size_t most = 100'000; // some megabytes
    if (known_.size() > most) known_.clear();
    known_.emplace(gap, motion);
    return motion;
}

Image WhatLiesBehind::over(const Image& frame, const Patch& patch, const Rational& position,
                           const PictureArea& area, const std::stop_token& stop) const {
    GatheredPicture gathered(frame, area);
    if (area.empty()) return frame;
    const std::int64_t own = position.floor();
    const double phase = (position - Rational(own)).toDouble();
    // Places in the source frame before.
    std::vector<PicturePoint> before;
    before.reserve(static_cast<std::size_t>(area.width()) * static_cast<std::size_t>(area.height()));
    const cv::Matx33d gapPlane = phase > 0 && !isCut(own) ? matrixOf(camera(own, stop)) : cv::Matx33d::eye();
    for (int y = area.top; y < area.bottom; ++y)
        for (int x = area.left; x < area.right; ++x) {
            const PicturePoint here{x + 0.5, y + 0.5};
            PicturePoint p = here;
            for (int turn = 0; turn < 3 && phase > 0; ++turn) { // p + phase · (moved(p) − p) = here
                const PicturePoint q = moved(gapPlane, p);
                p = {here.x - phase * (q.x - p.x), here.y - phase * (q.y - p.y)};
            }
            before.push_back(p);
        }
    std::vector<float> left(before.size(), 1.0F); // how much of each place is still to be found
    Way back(own);
    Way ahead(own);
    bool backEnds = false;
    bool aheadEnds = false;
    const int margin = std::max(3, patch.feather / 2);
    std::vector<Way> asked;
    const auto take = [&](const Way& way) {
        const std::int64_t n = way.frame();
        asked.push_back(way);
        const ImagePtr picture = source_->frame(n, stop);
        const SoftArea hidden =
            softAreaOf(outlines_->at(patch, Rational(n), stop), margin, frame.width(), frame.height());
        // Softly, and from outside the outline on: its inner half counts as hidden.
        const auto hiddenAt = [&](const PicturePoint& p) {
            const int x = static_cast<int>(p.x) - hidden.place.left;
            const int y = static_cast<int>(p.y) - hidden.place.top;
            if (hidden.coverage.empty() || x < 0 || y < 0 || x >= hidden.place.width() ||
                y >= hidden.place.height())
                return 0.0F;
            constexpr float half = 32768;
            return std::min(1.0F, static_cast<float>(
                                      hidden.coverage.row<std::uint16_t>(0, y)[static_cast<std::size_t>(x)]) /
                                      half);
        };
        PlacesIn places;
        double taken = 0;
        for (std::size_t i = 0; i < before.size(); ++i) {
            const PicturePoint p = way(before[i]);
            places.x.push_back(static_cast<float>(p.x));
            places.y.push_back(static_cast<float>(p.y));
            const bool isThere = p.x >= 0 && p.y >= 0 && p.x < frame.width() && p.y < frame.height();
            const float share = isThere ? left[i] * (1 - hiddenAt(p)) : 0.0F;
            places.share.push_back(share);
            left[i] -= share;
            taken += share;
        }
        if (taken > 0) gathered.add(*picture, places);
    };
    const auto goOn = [&](Way& way, bool& ends, std::int64_t to, int direction) {
        while (!ends && way.frame() != to) {
            const std::int64_t gap = direction > 0 ? way.frame() : way.frame() - 1;
            if (isCut(gap))
                ends = true;
            else
                way.step(direction, matrixOf(camera(gap, stop)));
        }
        if (!ends) take(way);
    };
    take(back); // the frame it lies on, or after: there too it may be hidden elsewhere
    for (const std::int64_t d : distances()) {
        throwIfStopped(stop);
        if (std::ranges::none_of(left, [](float v) { return v > 0.01F; })) break;
        goOn(ahead, aheadEnds, own + d, 1);
        goOn(back, backEnds, own - d, -1);
    }
    if (std::ranges::any_of(left, [](float v) { return v > 0.01F; }))
        takeMiddle(*source_, asked, before, left, gathered, stop);
    return gathered.over(frame);
}

std::string WhatLiesBehind::key(const Rational& position) const {
    const std::int64_t last = source_->frames() - 1;
    return source_->identityOf(std::clamp<std::int64_t>(position.floor() - reach, 0, last),
                               std::clamp<std::int64_t>(position.floor() + reach, 0, last));
}

} // namespace yarngap
