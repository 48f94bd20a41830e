#include "core/inspection/picture_quality.h"

#include "core/inspection/small_luma.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace yarngap {

namespace {

constexpr int block = 32;
constexpr int window = 64;
constexpr int nearest = 6;
constexpr int farthest = 32;

/// A copy of an 8-bit grey picture that OpenCV works on.
cv::Mat matOf(const Image& image, int kind) {
    const Image::Plane& plane = image.plane(0);
    // The view is only read from; OpenCV has no constant view.
    const cv::Mat view(plane.height, plane.width, CV_8UC1, const_cast<std::byte*>(plane.bytes.data()),
                       plane.stride);
    cv::Mat out;
    view.convertTo(out, kind);
    return out;
}

double percentile(std::vector<double>& values, double share) {
    if (values.empty()) return 0;
    const auto at =
        values.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(values.size() - 1));
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

double noiseOf(const cv::Mat& luma, double black, double white) {
    const cv::Mat kernel = (cv::Mat_<float>(3, 3) << 1, -2, 1, -2, 4, -2, 1, -2, 1);
    cv::Mat response;
    cv::filter2D(luma, response, CV_32F, kernel);
    std::vector<double> blocks;
    for (int y = 1; y + block < luma.rows; y += block)
        for (int x = 1; x + block < luma.cols; x += block) {
            const cv::Rect at(x, y, block, block);
            const double mean = cv::mean(luma(at))[0];
            if (mean < black + 12 || mean > white - 12) continue; // grain is cut off there
            const double sum = cv::norm(response(at), cv::NORM_L1);
            blocks.push_back(std::sqrt(std::numbers::pi / 2) / (6.0 * block * block) * sum);
        }
    return percentile(blocks, 0.1);
}

double edgeWidthOf(const cv::Mat& luma) {
    constexpr float clear = 6; // steps a pixel
    cv::Mat smooth;
    cv::GaussianBlur(luma, smooth, {1, 3}, 0); // across the direction that is measured along
    struct Edge {
        double slope, width;
    };
    std::vector<Edge> edges;
    for (int y = 0; y < smooth.rows; y += 2) {
        const float* p = smooth.ptr<float>(y);
        const auto slope = [&](int x) { return p[x + 1] - p[x]; };
        for (int x = 1; x + 2 < smooth.cols; ++x) {
            const float here = slope(x);
            if (std::abs(here) < clear || std::abs(here) < std::abs(slope(x - 1)) ||
                std::abs(here) <= std::abs(slope(x + 1)))
                continue;
            int left = x;
            int right = x + 1;
            while (left > 0 && (p[left] - p[left - 1]) * here > 0)
                --left;
            while (right + 1 < smooth.cols && slope(right) * here > 0)
                ++right;
            edges.push_back({std::abs(here), std::abs(p[right] - p[left]) / std::abs(here)});
        }
    }
    if (edges.size() < 20) return 0;
    const std::size_t clearest = std::max<std::size_t>(20, edges.size() / 5);
    std::nth_element(edges.begin(), edges.begin() + static_cast<std::ptrdiff_t>(clearest - 1), edges.end(),
                     [](const Edge& a, const Edge& b) { return a.slope > b.slope; });
    std::vector<double> widths;
    widths.reserve(clearest);
    for (std::size_t i = 0; i < clearest; ++i)
        widths.push_back(edges[i].width);
    return percentile(widths, 0.5);
}

/// Distance at which `part` looks like itself again, 0 when it does not; −1 when it has no texture.
double repeatOf(const cv::Mat& part) {
    cv::Scalar mean;
    cv::Scalar deviation;
    cv::meanStdDev(part, mean, deviation);
    if (deviation[0] < 5) return -1;
    cv::Mat padded(2 * window, 2 * window, CV_32F, cv::Scalar(0));
    cv::Mat corner = padded(cv::Rect(0, 0, window, window));
    cv::subtract(part, mean, corner);
    cv::Mat spectrum;
    cv::dft(padded, spectrum, cv::DFT_COMPLEX_OUTPUT);
    cv::Mat power;
    cv::mulSpectrums(spectrum, spectrum, power, 0, true);
    cv::Mat correlation;
    cv::idft(power, correlation, cv::DFT_REAL_OUTPUT | cv::DFT_SCALE);
    const float whole = correlation.at<float>(0, 0);
    const auto at = [&](int dx, int dy) {
        const float overlap = static_cast<float>((window - std::abs(dx)) * (window - std::abs(dy))) /
                              static_cast<float>(window * window);
        return correlation.at<float>((dy + 2 * window) % (2 * window), (dx + 2 * window) % (2 * window)) /
               (whole * overlap);
    };
    struct Likeness {
        double distance;
        float value;
    };
    std::vector<Likeness> alike;
    for (int dy = 0; dy <= farthest; ++dy)
        for (int dx = dy == 0 ? nearest : -farthest; dx <= farthest; ++dx) {
            const double distance = std::hypot(dx, dy);
            if (distance < nearest || distance > farthest || at(dx, dy) <= 0.6F) continue;
            bool falls = false; // something else lies between
            for (int i = 1; i < 8 && !falls; ++i)
                falls = at(static_cast<int>(std::lround(dx * i / 8.0)),
                           static_cast<int>(std::lround(dy * i / 8.0))) < 0.3F;
            if (falls) alike.push_back({distance, at(dx, dy)});
        }
    float highest = 0;
    for (const Likeness& l : alike)
        highest = std::max(highest, l.value);
    double step = 0; // the nearest of the best: a texture repeats at multiples of its step as well
    for (const Likeness& l : alike)
        if (l.value > 0.9F * highest && (step == 0 || l.distance < step)) step = l.distance;
    return step;
}

} // namespace

PictureQuality measureQuality(const Image& frame, bool fullRange) {
    PictureQuality quality;
    const double black = fullRange ? 0 : 16;
    const double white = fullRange ? 255 : 235;
    const cv::Mat luma = matOf(smallLuma(frame, frame.width()), CV_32F);
    quality.noise = noiseOf(luma, black, white);
    quality.edgeWidth = edgeWidthOf(luma);
    const cv::Mat cut = (luma <= black + 1) | (luma >= white - 1);
    quality.clipped = static_cast<double>(cv::countNonZero(cut)) / static_cast<double>(luma.total());
    quality.meanLuma = std::clamp((cv::mean(luma)[0] - black) * 255 / (white - black), 0.0, 255.0);

    const Image smaller = smallLuma(frame);
    const cv::Mat small = matOf(smaller, CV_32F);
    const double scale = static_cast<double>(frame.width()) / smaller.width();
    std::vector<double> steps;
    int textured = 0;
    for (int y = 0; y + window <= small.rows; y += window)
        for (int x = 0; x + window <= small.cols; x += window) {
            const double step = repeatOf(small(cv::Rect(x, y, window, window)));
            textured += step >= 0 ? 1 : 0;
            if (step > 0) steps.push_back(step * scale);
        }
    quality.repeating = textured == 0 ? 0 : static_cast<double>(steps.size()) / textured;
    quality.repeatStep = percentile(steps, 0.5);
    return quality;
}

WholeMotion wholeMotion(const Image& a, const Image& b) {
    const cv::Mat before = matOf(a, CV_32F);
    const cv::Mat after = matOf(b, CV_32F);
    if (before.cols < 8 || before.rows < 8) return {};
    cv::Mat hanning;
    cv::createHanningWindow(hanning, before.size(), CV_32F);
    const cv::Point2d shift = cv::phaseCorrelate(before, after, hanning);
    return {shift.x, shift.y};
}

} // namespace yarngap
