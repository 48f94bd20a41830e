#include "core/finish/follow_point.h"

#include "core/error.h"
#include "core/finish/region_alignment.h"
#include "core/inspection/small_luma.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace yarngap {

namespace {

cv::Mat lumaOf(const Image& image) {
    constexpr int whole = 1 << 20;
    constexpr int depth = 16;
    const Image luma = smallLuma(image, whole, depth);
    cv::Mat out(luma.height(), luma.width(), CV_32F);
    for (int y = 0; y < out.rows; ++y) {
        const auto row = luma.row<std::uint16_t>(0, y);
        std::transform(row.begin(), row.end(), out.ptr<float>(y),
                       [](std::uint16_t v) { return static_cast<float>(v) / 257.0F; }); // of 255
    }
    return out;
}

/// What most of the vectors near a place do.
PicturePoint motionAround(const VectorField& field, double perX, double perY, const PicturePoint& at,
                          double reach) {
    std::vector<float> xs;
    std::vector<float> ys;
    const auto cell = [](double v, int most) { return std::clamp(static_cast<int>(v), 0, most - 1); };
    for (int y = cell((at.y - reach) / perY, field.height); y <= cell((at.y + reach) / perY, field.height);
         ++y)
        for (int x = cell((at.x - reach) / perX, field.width); x <= cell((at.x + reach) / perX, field.width);
             ++x) {
            const float* v = field.row(y) + 2 * static_cast<std::ptrdiff_t>(x);
            if (!std::isfinite(v[0]) || !std::isfinite(v[1])) continue;
            xs.push_back(v[0]);
            ys.push_back(v[1]);
        }
    if (xs.empty()) return {};
    const auto median = [](std::vector<float>& values) {
        const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
        std::nth_element(values.begin(), middle, values.end());
        return static_cast<double>(*middle);
    };
    return {median(xs), median(ys)};
}

/// Where the square around `from` of one picture is found in another, by correlation about `guess`.
std::optional<PicturePoint> foundAgain(const cv::Mat& a, const PicturePoint& from, const cv::Mat& b,
                                       const PicturePoint& guess, double reach) {
    const auto around = [](const cv::Mat& m, const PicturePoint& p, double r) {
        const cv::Rect box(static_cast<int>(std::floor(p.x - r)), static_cast<int>(std::floor(p.y - r)),
                           static_cast<int>(2 * r) + 1, static_cast<int>(2 * r) + 1);
        return box & cv::Rect(0, 0, m.cols, m.rows);
    };
    const cv::Rect square = around(a, from, reach);
    const cv::Rect place = around(b, guess, reach + std::clamp(2 * reach, 24.0, 64.0));
    constexpr int least = 6;
    if (square.width < least || square.height < least || place.width <= square.width ||
        place.height <= square.height)
        return std::nullopt;
    cv::Mat alike;
    cv::matchTemplate(b(place), a(square), alike, cv::TM_CCOEFF_NORMED);
    cv::Point best;
    cv::minMaxLoc(alike, nullptr, nullptr, nullptr, &best);
    return PicturePoint{from.x + place.x + best.x - square.x, from.y + place.y + best.y - square.y};
}

/// Deviation, in pixels, from which a place is not to be believed: on drawn pictures true ones have less than
/// 0.18, and where it had slipped to something else there was 0.3 and more.
constexpr double largestUncertainty = 0.25;

/// Frames after which it is no longer looked for once it is lost.
constexpr std::int64_t longestGap = 8;

/// One direction of following.
class Follower {
  public:
    Follower(const FollowMeans& means, const FollowOptions& options)
        : means_(means)
        , reach_(options.reach)
        , first_(lumaOf(*means.source->frame(options.frame)), options.at, options.reach)
        , recent_(first_)
        , place_{.at = options.at} {
        if (!first_.canBeHeld())
            throw Error("There is nothing to follow at this place: it looks the same all around, or along a "
                        "line. Choose a corner or a spot.");
    }

    /// The point in the frame after (or before) the last; absent where it is lost.
    std::optional<FollowedPoint> next(std::int64_t frame, int direction, const std::stop_token& stop) {
        const std::int64_t gap = direction > 0 ? frame - 1 : frame;
        if (std::ranges::binary_search(means_.cuts, gap)) {
            why_ = "there is a cut";
            isAtCut_ = true;
            return std::nullopt;
        }
        const ImagePtr a = means_.source->frame(gap, stop);
        const ImagePtr b = means_.source->frame(gap + 1, stop);
        throwIfStopped(stop);
        const cv::Mat luma = lumaOf(direction > 0 ? *b : *a);
        std::vector<PicturePoint> guesses;
        const PicturePoint onward{place_.at.x + pace_.x, place_.at.y + pace_.y};
        if (means_.vectors) {
            const VectorsPtr v =
                means_.vectors->coarse(pairOf(*means_.source, gap, gap + 1), *a, *b, AnalyseOn::asIs, stop);
            const VectorField& field = direction > 0 ? v->forward : v->backward;
            const PicturePoint motion =
                motionAround(field, static_cast<double>(luma.cols) / field.width,
                             static_cast<double>(luma.rows) / field.height, place_.at, reach_ / 2);
            guesses.push_back({place_.at.x + motion.x, place_.at.y + motion.y});
        }
        guesses.push_back(onward);
        guesses_ = guesses;
        std::optional<Found> best;
        const auto tryAt = [&](const PicturePoint& guess) {
            const auto found = tried(guess, luma);
            if (found && (!best || found->score() > best->score())) best = found;
            return best && best->isSure();
        };
        for (const PicturePoint& guess : guesses)
            if (tryAt(guess)) return accepted(frame, *best, luma);
        // What hides a part of the last frame's square would be found again itself; that of the first has
        // none.
        const std::array<std::pair<const Region*, PicturePoint>, 2> looks{
            {{&first_, first_.at()}, {&recent_, place_.at}}};
        for (const auto& [region, from] : looks)
            if (const auto again = foundAgain(region->picture(), from, luma, onward, reach_))
                if (tryAt(*again)) break;
        if (best) return accepted(frame, *best, luma);
        return std::nullopt;
    }

    /// The point in a frame some way behind the last in which it was found; only where that is beyond doubt.
    std::optional<FollowedPoint> foundBehind(std::int64_t frame, std::int64_t frames,
                                             const std::stop_token& stop) {
        throwIfStopped(stop);
        const cv::Mat luma = lumaOf(*means_.source->frame(frame, stop));
        const auto steps = static_cast<double>(frames);
        const PicturePoint onward{place_.at.x + steps * pace_.x, place_.at.y + steps * pace_.y};
        guesses_ = {onward};
        for (const auto& guess :
             {std::optional(onward), foundAgain(first_.picture(), first_.at(), luma, onward, reach_)}) {
            if (!guess) continue;
            guesses_.push_back(*guess);
            const auto found = tried(*guess, luma);
            if (!found || !found->isSure()) continue;
            const PicturePoint before = place_.at;
            const FollowedPoint point = accepted(frame, *found, luma);
            pace_ = {(point.at.x - before.x) / steps, (point.at.y - before.y) / steps};
            return point;
        }
        return std::nullopt;
    }

    [[nodiscard]] const std::string& why() const { return why_; }
    [[nodiscard]] bool isAtCut() const { return isAtCut_; }
    [[nodiscard]] bool isCutBetween(std::int64_t a, std::int64_t b) const {
        const auto at = std::ranges::lower_bound(means_.cuts, std::min(a, b));
        return at != means_.cuts.end() && *at < std::max(a, b);
    }

  private:
    struct Found {
        AlignedRegion region; ///< as the first has become, or the recent one
        bool byFirst = true;

        [[nodiscard]] double score() const {
            return region.alike * region.counted * (byFirst ? 1 : 0.5) - region.uncertainty;
        }
        [[nodiscard]] bool isSure() const {
            return byFirst && region.alike > 0.95 && region.counted > 0.7 && region.uncertainty < 0.05;
        }
    };

    std::optional<Found> tried(const PicturePoint& guess, const cv::Mat& luma) {
        AlignedRegion start = place_;
        start.at = guess;
        AlignedRegion found = alignedWith(luma, first_, start);
        if (isGood(found)) return Found{found, true};
        why_ = wordsOf(found);
        // As it looked last: its turn and size are counted from there.
        AlignedRegion again = alignedWith(luma, recent_, {.at = guess});
        if (!isGood(again)) return std::nullopt;
        // There and back, or it may slip from one thing to another.
        const Region there(luma, again.at, reach_);
        const AlignedRegion back = alignedWith(recent_.picture(), there, {.at = place_.at});
        constexpr double slip = 0.5; // pixels
        // What it was chosen as must still be told in it.
        constexpr double leastOfFirst = 0.7;
        AlignedRegion first = place_;
        first.at = again.at;
        first = alignedWith(luma, first_, first);
        const bool isStillIt =
            first.alike >= leastOfFirst && std::hypot(first.at.x - again.at.x, first.at.y - again.at.y) < 1;
        if (!isStillIt || !(std::hypot(back.at.x - place_.at.x, back.at.y - place_.at.y) < slip)) {
            why_ = "it no longer looks as it did";
            return std::nullopt;
        }
        again.alike = std::min(again.alike, first.alike);
        return Found{again, false};
    }

    [[nodiscard]] bool isGood(const AlignedRegion& found) const {
        // Neither what vectors say nor the pace it had is far off.
        const double far = std::max({4.0, reach_ / 4, std::hypot(pace_.x, pace_.y) / 2});
        const bool isNear = std::ranges::any_of(guesses_, [&](const PicturePoint& guess) {
            return std::hypot(found.at.x - guess.x, found.at.y - guess.y) < far;
        });
        constexpr double loosest = largestUncertainty;
        constexpr double leastInside = 0.5;
        constexpr double leastCounted = 0.4;
        return found.alike >= leastAlike && found.inside >= leastInside && found.counted >= leastCounted &&
               found.uncertainty < loosest && isNear;
    }

    static std::string wordsOf(const AlignedRegion& found) {
        if (found.inside < 0.5) return "it leaves the picture";
        if (found.alike >= leastAlike && found.uncertainty >= largestUncertainty)
            return "it is too blurred to be placed";
        return "it is hidden, or no longer looks as it did";
    }

    FollowedPoint accepted(std::int64_t frame, const Found& found, const cv::Mat& luma) {
        pace_ = {found.region.at.x - place_.at.x, found.region.at.y - place_.at.y};
        recent_ = Region(luma, found.region.at, reach_);
        if (found.byFirst) {
            place_ = found.region;
        } else {
            first_ = recent_; // goes on from here
            place_ = {.at = found.region.at};
        }
        return {frame, found.region.at, std::clamp(found.region.alike, 0.0, 1.0), false};
    }

    const FollowMeans& means_;
    double reach_;
    Region first_;
    Region recent_;
    AlignedRegion place_; ///< of `first_` in the last frame
    PicturePoint pace_;
    std::vector<PicturePoint> guesses_; ///< where it may be in the frame looked at
    std::string why_;
    bool isAtCut_ = false;
};

} // namespace

FollowReport followPoint(const FollowMeans& means, const FollowOptions& options, const Progress& progress,
                         const std::stop_token& stop) {
    FollowReport report;
    std::int64_t done = 0;
    const std::int64_t all = std::max<std::int64_t>(1, options.last - options.first);
    const auto follow = [&](int direction, std::optional<std::int64_t>& lost, std::string& why) {
        FollowedPath found;
        Follower follower(means, options);
        for (std::int64_t n = options.frame + direction; n >= options.first && n <= options.last;
             n += direction) {
            auto point = follower.next(n, direction, stop);
            if (!point) {
                lost = n;
                why = follower.why();
                if (follower.isAtCut()) break;
                // Something may have passed before it.
                for (std::int64_t step = 2; step <= longestGap && !point; ++step) {
                    const std::int64_t beyond = n + direction * (step - 1);
                    if (beyond < options.first || beyond > options.last || follower.isCutBetween(n, beyond))
                        break;
                    point = follower.foundBehind(beyond, step, stop);
                }
                if (!point) break;
                lost.reset();
                n = point->frame;
            }
            found.push_back(*point);
            if (progress) progress(static_cast<double>(++done) / static_cast<double>(all));
        }
        return found;
    };
    FollowedPath back = follow(-1, report.lostBefore, report.whyBefore);
    const FollowedPath ahead = follow(1, report.lostAfter, report.whyAfter);
    std::ranges::reverse(back);
    report.path = std::move(back);
    report.path.push_back({options.frame, options.at, 1, true});
    report.path.insert(report.path.end(), ahead.begin(), ahead.end());
    return report;
}

} // namespace yarngap
