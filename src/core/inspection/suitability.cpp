#include "core/inspection/suitability.h"

#include "core/decimal.h"
#include "core/inspection/small_luma.h"
#include "core/motion/flow_estimator.h"
#include "core/progress.h"
#include "core/synthesis/warp.h"
#include "core/time/timing.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

constexpr std::int64_t places = 12;
constexpr int measuredWidth = 640;
constexpr double visibleSteps = 10; // 8-bit steps after a 3 x 3 mean that the eye finds on a still frame
constexpr double stillChange = 0.25;
constexpr double cutChange = 45;
constexpr double shakes = 2;     // pixels from frame to frame
constexpr double grainy = 3.5;   // 8-bit steps
constexpr double flickers = 0.7; // 8-bit steps of the whole picture
constexpr double dark = 40;      // mean luma, 0 to 255

cv::Mat softened(const Image& image) {
    const Image::Plane& plane = image.plane(0);
    const cv::Mat view(plane.height, plane.width, CV_8UC1, const_cast<std::byte*>(plane.bytes.data()),
                       plane.stride);
    cv::Mat soft;
    cv::blur(view, soft, {3, 3});
    return soft;
}

double meanDifference(const Image& a, const Image& b) {
    cv::Mat difference;
    cv::absdiff(softened(a), softened(b), difference);
    return cv::mean(difference)[0];
}

double percentile(std::vector<float> values, double share) {
    if (values.empty()) return 0;
    const auto at =
        values.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(values.size() - 1));
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

/// Lengths of vectors, in pixels times `scale`.
struct MotionLengths {
    std::vector<float> trusted; ///< of those that can be trusted
    std::vector<float> inside;  ///< of all but a margin, where vectors that leave the picture are guesses
};

MotionLengths motionLengths(const Vectors& vectors, double scale) {
    const int w = vectors.forward.width;
    const int h = vectors.forward.height;
    const int marginX = w / 8;
    const int marginY = h / 8;
    MotionLengths lengths;
    for (int y = 0; y < h; ++y) {
        const float* v = vectors.forward.row(y);
        const std::uint8_t* trust = vectors.forwardTrust.row(y);
        for (int x = 0; x < w; ++x) {
            const float length = std::hypot(v[2 * x], v[2 * x + 1]) * static_cast<float>(scale);
            if (trust[x] >= 128) lengths.trusted.push_back(length);
            if (x >= marginX && x < w - marginX && y >= marginY && y < h - marginY)
                lengths.inside.push_back(length);
        }
    }
    return lengths;
}

std::string percent(double share) {
    return decimal(100 * share, 0) + " %";
}

void addMotionRemarks(Suitability& s) {
    if (s.largestShare > 0.04)
        s.remarks.push_back("The largest motion is " + decimal(s.largestMotion, 0) + " pixels a frame, " +
                            percent(s.largestShare) +
                            " of the width: look there first, or pass it at native speed.");
    if (s.worstVisible > 3 * s.visible && s.worstVisible > 0.01)
        s.remarks.emplace_back("One place is much harder than the rest; slow that stretch less.");
    if (s.shake > shakes && s.shake > 0.3 * s.typicalMotion)
        s.remarks.push_back(
            "The camera shakes by about " + decimal(s.shake, 0) +
            " pixels from frame to frame. Slow motion turns that into swaying; steady the shot "
            "before slowing it.");
}

void addPictureRemarks(Suitability& s, const MediaFacts& facts, double flicker) {
    const PictureQuality& q = s.quality;
    if (q.noise > grainy)
        s.remarks.push_back("Grain of about " + decimal(q.noise, 1) +
                            " steps: made frames come out smoother than real ones, which shows as a pulse. "
                            "Take grain out before and put it back after.");
    if (q.edgeWidth > std::max(8.0, 0.008 * facts.width))
        s.remarks.push_back(
            "Edges are soft, about " + decimal(q.edgeWidth, 0) +
            " pixels wide. Slowing does not sharpen them: a smear stays on screen for longer.");
    if (flicker > flickers)
        s.remarks.push_back("The brightness flickers by about " + decimal(flicker, 1) +
                            " steps. Even it out first; motion is misread where the light changes.");
    if (q.clipped > 0.1)
        s.remarks.push_back(percent(q.clipped) +
                            " of the picture is pure black or white. Motion cannot be seen there; check what "
                            "passes through it.");
    if (q.meanLuma < dark)
        s.remarks.emplace_back(
            "The picture is dark. Lift its contrast for a look at the in-betweens; flaws hide "
            "in the shadows.");
    if (q.repeating > 0.15)
        s.remarks.push_back(
            "Texture repeats every " + decimal(q.repeatStep, 0) + " pixels over " + percent(q.repeating) +
            " of the picture; a motion of half of that reads as one the other way. Look for parts "
            "that jump to the next repeat, and blend there.");
}

void addFindingRemarks(Suitability& s, const ShotFindings& findings) {
    if (!findings.cuts.empty()) s.remarks.emplace_back("There are cuts; trim to one shot first.");
    if (findings.repeats.heldFor > 1)
        s.remarks.emplace_back("Drawn frames are held; in-betweens appear only where the drawing changes.");
    else if (!findings.repeats.frames.empty())
        s.remarks.emplace_back("Repeated frames will show as stops in slow motion.");
    if (findings.heldPart.heldFor > 1)
        s.remarks.emplace_back("A part of the picture is held while the rest moves; it will stop and go.");
    if (!findings.drops.empty())
        s.remarks.emplace_back("Frames are lost; slow motion shows that as a jump. Slow those gaps further.");
}

/// Median of one measure over several frames.
template <typename Measure>
double medianOf(const std::vector<PictureQuality>& all, Measure measure) {
    std::vector<float> values;
    values.reserve(all.size());
    for (const PictureQuality& q : all)
        values.push_back(static_cast<float>(measure(q)));
    return percentile(std::move(values), 0.5);
}

PictureQuality mediansOf(const std::vector<PictureQuality>& all) {
    return {.noise = medianOf(all, [](const auto& q) { return q.noise; }),
            .edgeWidth = medianOf(all, [](const auto& q) { return q.edgeWidth; }),
            .clipped = medianOf(all, [](const auto& q) { return q.clipped; }),
            .meanLuma = medianOf(all, [](const auto& q) { return q.meanLuma; }),
            .repeating = medianOf(all, [](const auto& q) { return q.repeating; }),
            .repeatStep = medianOf(all, [](const auto& q) { return q.repeatStep; })};
}

} // namespace

double advisedSpeed(const Rate& rate, double visible) {
    const double fps = rate.toDouble();
    const double rule = fps <= 31 ? 0.6 : fps <= 61 ? 0.4 : 24.0 / fps;
    const double factor = visible < 0.001 ? 0.5 : visible < 0.01 ? 1.0 : visible < 0.04 ? 1.5 : 1.8;
    const double steps = std::ceil(rule * factor * 20 - 1e-9); // in steps of 5 %
    return std::clamp(steps / 20, 0.05, 1.0);
}

std::string Suitability::sentence() const {
    if (placesTried == 0) return "The shot is too short to tell how far it can be slowed.";
    if (placesMoving == 0) return "Hardly anything moves; any speed will do.";
    if (lowestSpeed >= 1)
        return "In-betweens of this shot will show at any slower speed; check each of them.";
    return "Holds down to about " + displayPercent(Rational(std::llround(lowestSpeed * 100), 100)) +
           " before in-betweens show.";
}

Suitability assessSuitability(ShotFrames& frames, const ShotFindings& findings, const std::stop_token& stop) {
    Suitability s;
    const std::int64_t last = frames.frames() - 3; // first frame of the last place
    if (last < 0) return s;
    const std::int64_t count = std::min(places, last + 1);
    const double scale = std::max(1.0, static_cast<double>(frames.facts().width) / measuredWidth);
    std::vector<float> typical;
    std::vector<float> shaking;
    std::vector<PictureQuality> qualities;
    const bool full = frames.facts().colour.fullRange || frames.facts().layout.model == ColourModel::rgb;
    for (std::int64_t i = 0; i < count; ++i) {
        throwIfStopped(stop);
        const std::int64_t n = count == 1 ? 0 : last * i / (count - 1);
        const Image a = smallLuma(*frames.frame(n, stop));
        const ImagePtr middle = frames.frame(n + 1, stop);
        const Image real = smallLuma(*middle);
        qualities.push_back(measureQuality(*middle, full));
        const Image b = smallLuma(*frames.frame(n + 2, stop));
        ++s.placesTried;
        const double before = meanDifference(a, real);
        const double after = meanDifference(real, b);
        if (std::min(before, after) < stillChange || std::max(before, after) > cutChange) continue;
        ++s.placesMoving;
        const WholeMotion there = wholeMotion(a, real);
        const WholeMotion on = wholeMotion(real, b);
        shaking.push_back(static_cast<float>(std::hypot(on.x - there.x, on.y - there.y) * scale));
        const Vectors vectors = estimateFlow(a, b, {.quality = FlowQuality::draft}, stop);
        const MotionLengths lengths =
            motionLengths(vectors, scale / 2); // two frames apart: half of it a frame
        typical.push_back(static_cast<float>(percentile(lengths.trusted, 0.75)));
        s.largestMotion = std::max(s.largestMotion, percentile(lengths.inside, 0.99));
        const Image made = warpBetween(a, b, vectors, 0.5).image;
        cv::Mat difference;
        cv::absdiff(softened(made), softened(real), difference);
        const double visible = static_cast<double>(cv::countNonZero(difference > visibleSteps)) /
                               static_cast<double>(difference.total());
        s.visible += visible;
        s.worstVisible = std::max(s.worstVisible, visible);
    }
    if (s.placesMoving > 0) s.visible /= s.placesMoving;
    s.typicalMotion = percentile(typical, 0.5);
    s.largestShare = s.largestMotion / std::max(1, frames.facts().width);
    s.lowestSpeed = advisedSpeed(frames.facts().rate, s.visible);
    s.shake = percentile(shaking, 0.5);
    s.quality = mediansOf(qualities);
    addMotionRemarks(s);
    addPictureRemarks(s, frames.facts(), findings.flicker);
    addFindingRemarks(s, findings);
    return s;
}

} // namespace yarngap
