#include "core/inspection/suitability.h"

#include "core/motion/flow_estimator.h"
#include "core/progress.h"
#include "core/synthesis/warp.h"
#include "core/time/timing.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace yarngap {

namespace {

constexpr std::int64_t places = 12;
constexpr int workingWidth = 640;
constexpr double visibleSteps = 10; // 8-bit steps after a 3 x 3 mean that the eye finds on a still frame
constexpr double stillChange = 0.25;
constexpr double cutChange = 45;

/// Luma as an 8-bit grey picture of at most workingWidth columns.
Image smallLuma(const Image& image) {
    const bool deep = image.layout().depth > 8;
    const Image::Plane& plane = image.plane(0);
    // The view is only read from; OpenCV has no constant view.
    const cv::Mat view(plane.height, plane.width, deep ? CV_16UC1 : CV_8UC1,
                       const_cast<std::byte*>(plane.bytes.data()), plane.stride);
    cv::Mat eight;
    view.convertTo(eight, CV_8U, 255.0 / image.layout().maxValue());
    const double scale = std::min(1.0, static_cast<double>(workingWidth) / plane.width);
    const int width = std::max(1, static_cast<int>(std::lround(plane.width * scale)));
    const int height = std::max(1, static_cast<int>(std::lround(plane.height * scale)));
    Image out(width, height, {.model = ColourModel::grey});
    cv::Mat target(height, width, CV_8UC1, out.plane(0).bytes.data(), out.plane(0).stride);
    cv::resize(eight, target, target.size(), 0, 0, cv::INTER_AREA);
    return out;
}

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

std::string rounded(double value, int decimals) {
    std::array<char, 32> text{};
    std::snprintf(text.data(), text.size(), "%.*f", decimals, value);
    return text.data();
}

void addRemarks(Suitability& s, const ShotFindings& findings) {
    if (s.largestShare > 0.04)
        s.remarks.push_back("The largest motion is " + rounded(s.largestMotion, 0) + " pixels a frame, " +
                            rounded(100 * s.largestShare, 0) +
                            " % of the width: look there first, or pass it at native speed.");
    if (s.worstVisible > 3 * s.visible && s.worstVisible > 0.01)
        s.remarks.emplace_back("One place is much harder than the rest; slow that stretch less.");
    if (!findings.cuts.empty()) s.remarks.emplace_back("There are cuts; trim to one shot first.");
    if (findings.repeats.heldFor > 1)
        s.remarks.emplace_back("Drawn frames are held; in-betweens appear only where the drawing changes.");
    else if (!findings.repeats.frames.empty())
        s.remarks.emplace_back("Repeated frames will show as stops in slow motion.");
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
    const double scale = std::max(1.0, static_cast<double>(frames.facts().width) / workingWidth);
    std::vector<float> typical;
    for (std::int64_t i = 0; i < count; ++i) {
        throwIfStopped(stop);
        const std::int64_t n = count == 1 ? 0 : last * i / (count - 1);
        const Image a = smallLuma(*frames.frame(n, stop));
        const Image real = smallLuma(*frames.frame(n + 1, stop));
        const Image b = smallLuma(*frames.frame(n + 2, stop));
        ++s.placesTried;
        const double before = meanDifference(a, real);
        const double after = meanDifference(real, b);
        if (std::min(before, after) < stillChange || std::max(before, after) > cutChange) continue;
        ++s.placesMoving;
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
    addRemarks(s, findings);
    return s;
}

} // namespace yarngap
