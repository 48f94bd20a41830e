#include "core/motion/flow_estimator.h"

#include "core/error.h"
#include "core/motion/analysis_picture.h"
#include "core/motion/cell_vectors.h"
#include "core/motion/dense_search.h"
#include "core/motion/dominant_motion.h"
#include "core/motion/far_motion.h"
#include "core/motion/feature_motion.h"
#include "core/motion/guided_motion.h"
#include "core/motion/motion_choice.h"
#include "core/motion/motion_trust.h"
#include "core/motion/rounded_vectors.h"
#include "core/motion/row_along.h"
#include "core/progress.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <span>

namespace yarngap {

namespace {

constexpr int smallestSide = 16;

constexpr int looseStiffness = 50; // above it, the camera's motion is offered to every pixel

constexpr int smallPatch = SearchOptions::smallPatch;
/// Larger patches see through repeated texture and grain; what they lose at outlines the choice gives back.
constexpr int largePatch = SearchOptions::largePatch;

/// Motion by cells, and in cells, as motion of the pixels of a picture of size `whole`.
cv::Mat inPixels(const cv::Mat& cells, const cv::Size& whole) {
    const cv::Mat out = scaledMotion(cells, {2 * cells.cols, 2 * cells.rows});
    return out.size() == whole ? out : out(cv::Rect({0, 0}, whole)).clone();
}

cv::Mat searched(const SearchPicture& from, const SearchPicture& to, const FlowOptions& options, int patch,
                 const std::stop_token& stop) {
    // About a third of a patch: closer ones take longer and gain nothing.
    SearchOptions search{.patch = patch,
                         .stride = options.quality == FlowQuality::draft ? 4 : (patch + 1) / 3};
    search.smoothness *=
        std::exp2(static_cast<float>(options.stiffness - FlowOptions::defaultStiffness) / 15.0F);
    return denseSearch(from, to, search, stop);
}

/// `start`, which is the motion inside `where`, with what is left to move: the motion from `from` to `to`
/// moved back by it. A search that is only told where to start forgets it at coarser sizes.
cv::Mat refinedFrom(const cv::Mat& start, const cv::Mat& from, const cv::Mat& to, const cv::Rect& where,
                    const FlowOptions& options, const std::stop_token& stop) {
    const cv::Mat moved = pictureAlong(to, start, where.tl(), 1);
    const auto sized = [&](const cv::Mat& picture) {
        return SearchPicture(picture, options.quality == FlowQuality::draft ? 2 : 1);
    };
    return start + searched(sized(from(where)), sized(moved), options, smallPatch, stop);
}

/// `flow` with what was found far off inside `where` taken where it fits better.
cv::Mat withFar(const cv::Mat& flow, const cv::Mat& far, const ColouredPicture& from,
                const ColouredPicture& to, const cv::Rect& where, const FlowOptions& options,
                const std::stop_token& stop) {
    constexpr float better = 2; // steps
    cv::Mat out = flow.clone();
    const cv::Mat found = refinedFrom(far, from.luma, to.luma, where, options, stop);
    chooseMotion(from.inside(where), to, {{flow(where), 0}, {found, -better}}, where.tl(), stop)
        .copyTo(out(where));
    return out;
}

/// Of a picture with light that changes slowly over it taken away, lest a change of it hide what fits.
cv::Mat withoutLight(const cv::Mat& picture) {
    constexpr double about = 10; // pixels
    constexpr double middle = 128;
    cv::Mat light;
    cv::GaussianBlur(picture, light, {}, about);
    cv::Mat out;
    cv::addWeighted(picture, 1, light, -1, middle, out);
    return out;
}

/// Takes motions of the whole plane, where they fit better, into both directions.
void followFeatures(std::span<const FeatureMotion> motions, const cv::Mat& from, const cv::Mat& to,
                    cv::Mat& there, cv::Mat& back, const FlowOptions& options, const std::stop_token& stop) {
    if (motions.empty()) return;
    const cv::Mat shapesFrom = withoutLight(from);
    const cv::Mat shapesTo = withoutLight(to);
    const cv::Rect all({0, 0}, from.size());
    for (const FeatureMotion& motion : motions) {
        // The camera's moves what shows nothing too; another has to fit better to be believed.
        const float favour = motion.there.support > 0.5 ? 3.0F : -2.0F;
        const auto taken = [&](const cv::Mat& flow, const PlaneMotion& plane, bool ahead) {
            const cv::Mat found = refinedFrom(plane.field(from.size()), ahead ? from : to, ahead ? to : from,
                                              all, options, stop);
            return chooseMotion({ahead ? shapesFrom : shapesTo}, {ahead ? shapesTo : shapesFrom},
                                {{flow, 0}, {found, favour}}, {}, stop);
        };
        there = taken(there, motion.there, true);
        back = taken(back, motion.back, false);
        throwIfStopped(stop);
    }
}

/// A picture in all that is searched of it.
struct Sought {
    const ColouredPicture& picture;
    const SearchPicture& luma;                      ///< by cells, as is the next
    const std::optional<SearchPicture>& contrasted; ///< see contrastedByColour
};

/// Vectors of one direction from what was found in both; `back` are those of the other, `far` those farther
/// off inside `where`, if any.
cv::Mat refined(const Sought& from, const Sought& to, const cv::Mat& found, const cv::Mat& back,
                const cv::Mat& far, const cv::Rect& where, const FlowOptions& options,
                const std::stop_token& stop) {
    const cv::Mat flow =
        far.empty() ? found : withFar(found, far, from.picture, to.picture, where, options, stop);
    throwIfStopped(stop);
    std::vector<Candidate> candidates{{flow, 0}};
    if (options.quality == FlowQuality::thorough)
        candidates.push_back(
            {inPixels(searched(from.luma, to.luma, options, largePatch, stop), flow.size()), 0});
    throwIfStopped(stop);
    if (from.contrasted && to.contrasted)
        candidates.push_back(
            {inPixels(searched(*from.contrasted, *to.contrasted, options, smallPatch, stop), flow.size()),
             -0.5F});
    throwIfStopped(stop);
    if (options.stiffness > looseStiffness) {
        constexpr float most = 6;
        const float favour = most * static_cast<float>(options.stiffness - looseStiffness) /
                             static_cast<float>(FlowOptions::stiffest - looseStiffness);
        for (const PlaneMotion& camera : dominantMotions(flow, back, from.picture.luma, 1))
            candidates.push_back({camera.field(flow.size()), favour});
    }
    throwIfStopped(stop);
    return candidates.size() == 1 ? flow : chooseMotion(from.picture, to.picture, candidates, {}, stop);
}

/// The guide of `options`, which counts pixels of a picture of size `whole`.
void follow(const ColouredPicture& a, const ColouredPicture& b, cv::Mat& there, cv::Mat& back,
            const cv::Size& whole, const FlowOptions& options, const std::stop_token& stop) {
    const double x = static_cast<double>(a.luma.cols) / whole.width;
    const double y = static_cast<double>(a.luma.rows) / whole.height;
    std::vector<GuidePair> pairs = options.guide;
    for (GuidePair& pair : pairs)
        pair = {{pair.from.x * x, pair.from.y * y}, {pair.to.x * x, pair.to.y * y}};
    const cv::Rect all({0, 0}, a.luma.size());
    followGuide(
        a, b, there, back, pairs,
        [&](const cv::Mat& start, bool ahead) {
            return refinedFrom(start, ahead ? a.luma : b.luma, ahead ? b.luma : a.luma, all, options, stop);
        },
        stop);
}

/// Of pictures too small to say.
Vectors unknownMotion(const Image& a) {
    const std::size_t n = static_cast<std::size_t>(a.width()) * static_cast<std::size_t>(a.height());
    const VectorField still{a.width(), a.height(), std::vector<float>(n * 2, 0.0F)};
    const TrustField none{a.width(), a.height(), std::vector<std::uint8_t>(n, 0)};
    return {still, still, none, none};
}

/// `motion` of cells as one of pixels.
PlaneMotion inPixels(const PlaneMotion& motion) {
    // The middle of cell n lies half a pixel to the right of pixel 2 n.
    constexpr double middle = 0.5;
    PlaneMotion out = motion;
    const auto& h = motion.h;
    out.h[2] = 2 * h[2] + middle * (1 - h[0] - h[1]);
    out.h[5] = 2 * h[5] + middle * (1 - h[3] - h[4]);
    return out;
}

FarMotions inPixels(const FarMotions& cells, const cv::Size& whole) {
    if (cells.there.empty()) return {};
    const cv::Rect where = cv::Rect(2 * cells.where.tl(), cells.where.size() * 2) & cv::Rect({0, 0}, whole);
    return {inPixels(cells.there, where.size()), inPixels(cells.back, where.size()), where};
}

/// Motion of both directions.
struct BothWays {
    cv::Mat there, back;

    [[nodiscard]] BothWays inPixels(const cv::Size& whole) const {
        return {yarngap::inPixels(there, whole), yarngap::inPixels(back, whole)};
    }
};

std::array<cv::Mat, 2> lumasOf(const Image& a, const Image& b, AnalyseOn analyseOn) {
    std::array<cv::Mat, 2> out;
    tbb::parallel_invoke([&] { out[0] = analysisPicture(a, analyseOn); },
                         [&] { out[1] = analysisPicture(b, analyseOn); });
    return out;
}

/// Both pictures of a gap, and what is looked at of them.
class EstimatedGap {
  public:
    EstimatedGap(const Image& a, const Image& b, const FlowOptions& options, std::stop_token stop)
        : a_(a)
        , b_(b)
        , options_(options)
        , stop_(std::move(stop))
        , lumas_(lumasOf(a, b, options.analyseOn))
        , cellsA_(inCells(lumas_[0]))
        , cellsB_(inCells(lumas_[1]))
        , soughtA_(cellsA_, smaller())
        , soughtB_(cellsB_, smaller()) {}

    /// In drafts and in standard.
    [[nodiscard]] Vectors vectors() const {
        BothWays motion;
        bothWays([&] { motion.there = searched(soughtA_, soughtB_, options_, smallPatch, stop_); },
                 [&] { motion.back = searched(soughtB_, soughtA_, options_, smallPatch, stop_); });
        throwIfStopped(stop_);
        if (options_.quality == FlowQuality::draft) {
            if (!options_.guide.empty())
                follow({cellsA_}, {cellsB_}, motion.there, motion.back, lumas_[0].size(), options_, stop_);
            return byCells(motion);
        }
        std::vector<FeatureMotion> features;
        FarMotions far;
        lookFar(motion, features, far);
        if (features.empty() && far.there.empty() && options_.guide.empty() &&
            options_.stiffness <= looseStiffness)
            return byCells(motion);
        motion = motion.inPixels(lumas_[0].size());
        if (!features.empty()) {
            followFeatures(features, lumas_[0], lumas_[1], motion.there, motion.back, options_, stop_);
            far = farMotions(lumas_[0], lumas_[1], motion.there, motion.back, stop_);
        }
        motion = chosen(motion, far);
        if (!options_.guide.empty()) return byPixels(motion);
        constexpr double inPixel = 0.5;
        return byCells({inPixel * inCells(motion.there), inPixel * inCells(motion.back)});
    }

    /// In thorough, from those in standard.
    [[nodiscard]] Vectors vectors(const Vectors& standard) const {
        constexpr double inPixel = 0.5;
        const auto cells = [&](const VectorField& field) -> cv::Mat {
            return inPixel * cv::Mat(field.height, field.width, CV_32FC2,
                                     const_cast<float*>(field.xy.data())); // only read
        };
        const BothWays motion{cells(standard.forward), cells(standard.backward)};
        const BothWays best = chosen(motion.inPixels(lumas_[0].size()), {});
        return byPixels(best);
    }

  private:
    /// How often cells are halved for the finest search: drafts look at little.
    [[nodiscard]] int smaller() const {
        constexpr int smallEnough = 640;
        if (options_.quality != FlowQuality::draft) return 0;
        return std::max(lumas_[0].cols, lumas_[0].rows) > smallEnough ? 2 : 1;
    }
    /// Side by side takes twice the memory, of which a large picture needs enough one at a time.
    template <typename There, typename Back>
    void bothWays(const There& there, const Back& back) const {
        if (!isLarge(a_)) return tbb::parallel_invoke(there, back);
        there();
        back();
    }
    [[nodiscard]] Vectors byCells(const BothWays& motion) const {
        return toVectors(motion.there, motion.back, cellsA_, cellsB_, 2, stop_);
    }

    [[nodiscard]] Vectors byPixels(const BothWays& motion) const {
        return toVectors(motion.there, motion.back, lumas_[0], lumas_[1], 1, stop_);
    }

    /// What `motion`, which is by cells, has missed, by pixels.
    void lookFar(const BothWays& motion, std::vector<FeatureMotion>& features, FarMotions& far) const {
        // Both look at a few hundred samples across, which cells of larger pictures have as well.
        constexpr int byCellsFrom = 960;
        const cv::Size whole = lumas_[0].size();
        if (std::max(whole.width, whole.height) < byCellsFrom) {
            const BothWays pixels = motion.inPixels(whole);
            features = featureMotions(lumas_[0], lumas_[1], pixels.there, stop_);
            if (features.empty()) far = farMotions(lumas_[0], lumas_[1], pixels.there, pixels.back, stop_);
            return;
        }
        features = featureMotions(cellsA_, cellsB_, motion.there, stop_);
        for (FeatureMotion& feature : features)
            feature = {inPixels(feature.there), inPixels(feature.back)};
        if (features.empty())
            far = inPixels(farMotions(cellsA_, cellsB_, motion.there, motion.back, stop_), whole);
    }

    /// Of several motions, by pixels, what fits best.
    [[nodiscard]] BothWays chosen(const BothWays& motion, const FarMotions& far) const {
        ColouredPicture a{lumas_[0]};
        ColouredPicture b{lumas_[1]};
        if (!isLarge(a_)) // of a large picture colour would take too much memory
            tbb::parallel_invoke([&] { a.colour = analysisColour(a_, options_.analyseOn); },
                                 [&] { b.colour = analysisColour(b_, options_.analyseOn); });
        std::array<std::optional<SearchPicture>, 2> contrasted;
        if (options_.quality == FlowQuality::thorough) {
            const std::array<cv::Mat, 2> pictures = contrastedByColour(a, b);
            for (std::size_t i = 0; i < pictures.size(); ++i)
                if (!pictures[i].empty()) contrasted[i].emplace(inCells(pictures[i]), 0);
        }
        const Sought inA{a, soughtA_, contrasted[0]};
        const Sought inB{b, soughtB_, contrasted[1]};
        BothWays out;
        bothWays(
            [&] {
                out.there =
                    refined(inA, inB, motion.there, motion.back, far.there, far.where, options_, stop_);
            },
            [&] {
                out.back = refined(inB, inA, motion.back, motion.there, far.back, far.where, options_, stop_);
            });
        throwIfStopped(stop_);
        if (!options_.guide.empty()) follow(a, b, out.there, out.back, lumas_[0].size(), options_, stop_);
        return out;
    }

    const Image& a_;
    const Image& b_;
    const FlowOptions& options_;
    std::stop_token stop_;
    std::array<cv::Mat, 2> lumas_;
    cv::Mat cellsA_, cellsB_;
    SearchPicture soughtA_, soughtB_;
};

} // namespace

Vectors estimateCoarseFlow(const Image& a, const Image& b, AnalyseOn analyseOn, const std::stop_token& stop) {
    if (a.width() < smallestSide || a.height() < smallestSide) return unknownMotion(a);
    cv::Mat la = analysisPicture(a, analyseOn);
    cv::Mat lb = analysisPicture(b, analyseOn);
    throwIfStopped(stop);
    constexpr int widest = 960;
    const int factor =
        std::max((la.cols + widest - 1) / widest, std::min(la.cols, la.rows) >= 4 * smallestSide ? 2 : 1);
    const cv::Size whole = la.size();
    if (factor > 1)
        for (cv::Mat* m : {&la, &lb})
            cv::resize(*m, *m, {(whole.width + factor - 1) / factor, (whole.height + factor - 1) / factor}, 0,
                       0, cv::INTER_AREA);
    cv::Mat forward;
    cv::Mat backward;
    const FlowOptions quick{.quality = FlowQuality::draft};
    constexpr int smaller = 2; // times halved
    const SearchPicture pa(la, smaller);
    const SearchPicture pb(lb, smaller);
    tbb::parallel_invoke([&] { forward = searched(pa, pb, quick, smallPatch, stop); },
                         [&] { backward = searched(pb, pa, quick, smallPatch, stop); });
    throwIfStopped(stop);
    Vectors v;
    TrustBothWays trust = trustOf(forward, backward, la, lb);
    v.forwardTrust = std::move(trust.forward);
    v.backwardTrust = std::move(trust.backward);
    const cv::Scalar scale(static_cast<double>(whole.width) / la.cols,
                           static_cast<double>(whole.height) / la.rows);
    for (cv::Mat* flow : {&forward, &backward})
        cv::multiply(*flow, scale, *flow);
    v.forward = toField(forward, 1);
    v.backward = toField(backward, 1);
    return v;
}

Vectors estimateFlow(const Image& a, const Image& b, const FlowOptions& options,
                     const std::stop_token& stop) {
    if (options.quality == FlowQuality::thorough)
        return estimateThoroughFlow(a, b, options, estimateFlow(a, b, standardFor(options), stop), stop);
    if (a.width() < smallestSide || a.height() < smallestSide) return unknownMotion(a);
    return EstimatedGap(a, b, options, stop).vectors();
}

FlowOptions standardFor(const FlowOptions& options) {
    FlowOptions out = options;
    out.quality = FlowQuality::standard;
    out.guide.clear();
    return out;
}

Vectors estimateThoroughFlow(const Image& a, const Image& b, const FlowOptions& options,
                             const Vectors& standard, const std::stop_token& stop) {
    if (a.width() < smallestSide || a.height() < smallestSide) return standard;
    return EstimatedGap(a, b, options, stop).vectors(standard);
}

} // namespace yarngap
