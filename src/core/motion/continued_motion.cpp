#include "core/motion/continued_motion.h"

#include "core/motion/analysis_picture.h"
#include "core/motion/cell_vectors.h"
#include "core/motion/motion_choice.h"
#include "core/motion/region_motion.h"
#include "core/motion/shared_change.h"
#include "core/progress.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>

namespace yarngap {

namespace {

/// `field` as a matrix on its own samples.
cv::Mat matrixOf(const VectorField& field) {
    return {field.height, field.width, CV_32FC2, const_cast<float*>(field.xy.data())};
}
cv::Mat matrixOf(const TrustField& trust) {
    return {trust.height, trust.width, CV_8U, const_cast<std::uint8_t*>(trust.values.data())};
}

/// Mean trust over 5 x 5 pixels, 0 to 255.
cv::Mat meanTrust(const TrustField& trust) {
    cv::Mat out;
    cv::blur(matrixOf(trust), out, {5, 5});
    return out;
}

/// Vectors of one direction with their trust.
struct OneWay {
    const VectorField& field;
    const TrustField& trust;
};

/// The same, by pixels of a picture of this size, where they may be by cells: between the middles of these
/// they go evenly from one to the next.
class OneWayByPixels {
  public:
    OneWayByPixels(const OneWay& given, int width, int height)
        : given_(given) {
        if (given.field.width == width) return;
        const cv::Size size(2 * given.field.width, 2 * given.field.height);
        const std::size_t pixels = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
        field_ = {width, height, std::vector<float>(2 * pixels)};
        trust_ = {width, height, std::vector<std::uint8_t>(pixels)};
        const cv::Rect inside(0, 0, width, height);
        cv::Mat whole;
        cv::resize(matrixOf(given.field), whole, size, 0, 0, cv::INTER_LINEAR);
        whole(inside).copyTo(cv::Mat(height, width, CV_32FC2, field_.xy.data()));
        cv::resize(matrixOf(given.trust), whole, size, 0, 0, cv::INTER_LINEAR);
        whole(inside).copyTo(cv::Mat(height, width, CV_8U, trust_.values.data()));
    }
    [[nodiscard]] OneWay get() const { return field_.xy.empty() ? given_ : OneWay{field_, trust_}; }

  private:
    OneWay given_;
    VectorField field_;
    TrustField trust_;
};

OneWay forwardOf(const Vectors& vectors) {
    return {vectors.forward, vectors.forwardTrust};
}
OneWay backwardOf(const Vectors& vectors) {
    return {vectors.backward, vectors.backwardTrust};
}

/// `own` leads from `from` to `to`; `away` from `from` to `beyond`.
RegionMotion continued(const OneWay& own, const OneWay& away, const ThreePictures& shown,
                       const std::stop_token& stop) {
    constexpr float dearer = 8;   // steps
    constexpr float favour = -1;  // steps
    constexpr int muchMore = 128; // of 255
    const SharedChange change(own.field, own.trust, away.field, away.trust);
    const ThreePictures pictures{shown.from, shown.to, change.evenedOut(shown.beyond)};
    VectorField turned = away.field;
    tbb::parallel_for(0, turned.height, [&](int y) {
        float* v = turned.row(y);
        for (int x = 0; x < turned.width; ++x) {
            const cv::Vec2f more = change.at(x, y);
            v[2 * x] = more[0] - v[2 * x];
            v[2 * x + 1] = more[1] - v[2 * x + 1];
        }
    });
    const cv::Mat goesOn = matrixOf(turned);
    const cv::Mat chosen =
        chooseMotion(pictures.from, pictures.to, {{matrixOf(own.field), 0}, {goesOn, favour}}, {}, stop,
                     {pictures.beyond, dearer});
    const cv::Mat here = meanTrust(own.trust);
    const cv::Mat there = meanTrust(away.trust);
    const int width = own.field.width;
    VectorField out{width, own.field.height, std::vector<float>(own.field.xy.size())};
    tbb::parallel_for(0, out.height, [&](int y) {
        const auto* trustHere = here.ptr<std::uint8_t>(y);
        const auto* trustThere = there.ptr<std::uint8_t>(y);
        const auto* other = goesOn.ptr<float>(y);
        const auto* best = chosen.ptr<float>(y);
        float* to = out.row(y);
        for (int x = 0; x < width; ++x) {
            const float* taken = (trustThere[x] >= trustHere[x] + muchMore ? other : best) + 2 * x;
            to[2 * x] = taken[0];
            to[2 * x + 1] = taken[1];
        }
    });
    RegionMotion result = regionMotion({out, own.trust, turned}, pictures, stop);
    result.others.push_back(inCells(own.field));
    return result;
}

bool fits(const GapBeside& gap, const Image& picture) {
    const int width = picture.width();
    const int height = picture.height();
    if (!gap.vectors || !gap.frame || gap.frame->width() != width || gap.frame->height() != height)
        return false;
    const VectorField& field = gap.vectors->forward;
    return areByCells(*gap.vectors, width, height) || (field.width == width && field.height == height);
}

} // namespace

Vectors continueMotion(const Vectors& vectors, const Image& a, const Image& b, const GapsBeside& beside,
                       AnalyseOn analyseOn, const std::stop_token& stop) {
    if (!fits(beside.before, a) && !fits(beside.after, a)) return vectors;
    const ColouredPicture pictureA = colouredPicture(a, analyseOn);
    const ColouredPicture pictureB = colouredPicture(b, analyseOn);
    throwIfStopped(stop);
    const auto side = [&](const OneWay& own, const GapBeside& gap, auto awayOf, const ColouredPicture& from,
                          const ColouredPicture& to) -> RegionMotion {
        if (!fits(gap, a)) return {own.field, {}};
        const OneWayByPixels away(awayOf(*gap.vectors), a.width(), a.height());
        return continued(own, away.get(), {from, to, colouredPicture(*gap.frame, analyseOn)}, stop);
    };
    RegionMotion forward;
    RegionMotion backward;
    tbb::parallel_invoke(
        [&] { forward = side(forwardOf(vectors), beside.before, backwardOf, pictureA, pictureB); },
        [&] { backward = side(backwardOf(vectors), beside.after, forwardOf, pictureB, pictureA); });
    Vectors out{{}, {}, vectors.forwardTrust, vectors.backwardTrust};
    const std::size_t count = std::max(forward.others.size(), backward.others.size());
    for (RegionMotion* way : {&forward, &backward}) // one that has no gap beside has no others
        while (way->others.size() < count)
            way->others.push_back(inCells(way->chosen));
    for (std::size_t i = 0; i < count; ++i)
        out.others.push_back({std::move(forward.others[i]), std::move(backward.others[i])});
    out.forward = std::move(forward.chosen);
    out.backward = std::move(backward.chosen);
    return out;
}

} // namespace yarngap
