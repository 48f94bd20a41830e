#include "core/motion/flow_estimator.h"

#include "core/error.h"
#include "core/motion/analysis_picture.h"
#include "core/motion/dense_search.h"
#include "core/motion/dominant_motion.h"
#include "core/motion/far_motion.h"
#include "core/motion/feature_motion.h"
#include "core/motion/guided_motion.h"
#include "core/motion/half_floats.h"
#include "core/motion/motion_choice.h"
#include "core/motion/motion_trust.h"
#include "core/motion/row_along.h"
#include "core/progress.h"
#include "core/widest.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

namespace yarngap {

namespace {

constexpr int smallestSide = 16;

constexpr int looseStiffness = 50; // above it, the camera's motion is offered to every pixel

constexpr int smallPatch = SearchOptions::smallPatch;
/// Larger patches see through repeated texture and grain; what they lose at outlines the choice gives back.
constexpr int largePatch = SearchOptions::largePatch;

/// A picture to be searched for `options`.
SearchPicture searchable(const cv::Mat& picture, const FlowOptions& options) {
    return {picture, options.quality == FlowQuality::draft ? 2 : 1};
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
    return start +
           searched(searchable(from(where), options), searchable(moved, options), options, smallPatch, stop);
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

/// Takes motions of the whole plane that features tell, where they fit better, into both directions.
void followFeatures(const cv::Mat& from, const cv::Mat& to, cv::Mat& there, cv::Mat& back,
                    const FlowOptions& options, const std::stop_token& stop) {
    const std::vector<FeatureMotion> motions = featureMotions(from, to, there, stop);
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
    const SearchPicture& luma;
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
        candidates.push_back({searched(from.luma, to.luma, options, largePatch, stop), 0});
    throwIfStopped(stop);
    if (from.contrasted && to.contrasted)
        candidates.push_back({searched(*from.contrasted, *to.contrasted, options, smallPatch, stop), -0.5F});
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

YARNGAP_WIDEST void roundToHalf(const float* from, int count, float* to) {
#pragma GCC ivdep
    for (int i = 0; i < count; ++i)
        to[i] = roundedToHalf(from[i]);
}

VectorField toField(const cv::Mat& flow) {
    VectorField field{flow.cols, flow.rows, {}};
    field.xy.resize(static_cast<std::size_t>(flow.cols) * static_cast<std::size_t>(flow.rows) * 2);
    tbb::parallel_for(0, flow.rows,
                      [&](int y) { roundToHalf(flow.ptr<float>(y), 2 * flow.cols, field.row(y)); });
    return field;
}

/// Of pictures too small to say.
Vectors unknownMotion(const Image& a) {
    const std::size_t n = static_cast<std::size_t>(a.width()) * static_cast<std::size_t>(a.height());
    const VectorField still{a.width(), a.height(), std::vector<float>(n * 2, 0.0F)};
    const TrustField none{a.width(), a.height(), std::vector<std::uint8_t>(n, 0)};
    return {still, still, none, none};
}

void enlarge(TrustField& trust, const cv::Size& size) {
    const cv::Mat small(trust.height, trust.width, CV_8U, trust.values.data());
    TrustField out{size.width, size.height, {}};
    out.values.resize(static_cast<std::size_t>(size.area()));
    cv::Mat large(size, CV_8U, out.values.data());
    cv::resize(small, large, size, 0, 0, cv::INTER_LINEAR);
    trust = std::move(out);
}

} // namespace

double Vectors::doubt() const {
    double sum = 0;
    for (const TrustField* t : {&forwardTrust, &backwardTrust})
        for (const std::uint8_t v : t->values)
            sum += v;
    const std::size_t n = forwardTrust.values.size() + backwardTrust.values.size();
    return n == 0 ? 0.0 : 1.0 - sum / (255.0 * static_cast<double>(n));
}

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
    const SearchPicture pa = searchable(la, quick);
    const SearchPicture pb = searchable(lb, quick);
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
    v.forward = toField(forward);
    v.backward = toField(backward);
    return v;
}

Vectors estimateFlow(const Image& a, const Image& b, const FlowOptions& options,
                     const std::stop_token& stop) {
    if (a.width() < smallestSide || a.height() < smallestSide) return unknownMotion(a);
    ColouredPicture ca;
    ColouredPicture cb;
    const bool quick = options.quality == FlowQuality::draft;
    tbb::parallel_invoke([&] { ca.luma = analysisPicture(a, options.analyseOn); },
                         [&] { cb.luma = analysisPicture(b, options.analyseOn); });
    cv::Mat& la = ca.luma;
    cv::Mat& lb = cb.luma;
    // A quick look at a large picture is taken at half its size.
    constexpr int smallEnough = 640;
    const bool halved = quick && std::max(la.cols, la.rows) > smallEnough;
    const cv::Size whole = la.size();
    if (halved)
        for (cv::Mat* m : {&la, &lb})
            cv::resize(*m, *m, {(whole.width + 1) / 2, (whole.height + 1) / 2}, 0, 0, cv::INTER_AREA);
    cv::Mat forward;
    cv::Mat backward;
    // Side by side takes twice the memory, of which a large picture needs enough one at a time.
    const auto bothWays = [&](const auto& there, const auto& back) {
        if (!isLarge(a)) return tbb::parallel_invoke(there, back);
        there();
        back();
    };
    const SearchPicture pa = searchable(la, options);
    const SearchPicture pb = searchable(lb, options);
    bothWays([&] { forward = searched(pa, pb, options, smallPatch, stop); },
             [&] { backward = searched(pb, pa, options, smallPatch, stop); });
    throwIfStopped(stop);
    const bool looksFar = !quick;
    if (looksFar) followFeatures(la, lb, forward, backward, options, stop);
    {
        const FarMotions far = looksFar ? farMotions(la, lb, forward, backward, stop) : FarMotions{};
        const bool choosesHere = !far.there.empty() || options.quality == FlowQuality::thorough ||
                                 options.stiffness > looseStiffness || !options.guide.empty();
        if (!quick && choosesHere && !isLarge(a)) // of a large picture colour would take too much memory
            tbb::parallel_invoke([&] { ca.colour = analysisColour(a, options.analyseOn); },
                                 [&] { cb.colour = analysisColour(b, options.analyseOn); });
        std::array<std::optional<SearchPicture>, 2> contrasted;
        if (options.quality == FlowQuality::thorough) {
            const std::array<cv::Mat, 2> pictures = contrastedByColour(ca, cb);
            for (std::size_t i = 0; i < pictures.size(); ++i)
                if (!pictures[i].empty()) contrasted[i].emplace(searchable(pictures[i], options));
        }
        const Sought inA{ca, pa, contrasted[0]};
        const Sought inB{cb, pb, contrasted[1]};
        cv::Mat there;
        cv::Mat back;
        bothWays([&] { there = refined(inA, inB, forward, backward, far.there, far.where, options, stop); },
                 [&] { back = refined(inB, inA, backward, forward, far.back, far.where, options, stop); });
        forward = there;
        backward = back;
        throwIfStopped(stop);
    }
    if (!options.guide.empty()) follow(ca, cb, forward, backward, whole, options, stop);
    Vectors v;
    TrustBothWays trust = trustOf(forward, backward, la, lb);
    v.forwardTrust = std::move(trust.forward);
    v.backwardTrust = std::move(trust.backward);
    throwIfStopped(stop);
    if (halved) {
        for (cv::Mat* flow : {&forward, &backward})
            *flow = scaledMotion(*flow, whole);
        enlarge(v.forwardTrust, whole);
        enlarge(v.backwardTrust, whole);
    }
    v.forward = toField(forward);
    forward.release();
    throwIfStopped(stop);
    v.backward = toField(backward);
    return v;
}

} // namespace yarngap
