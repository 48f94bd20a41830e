// What a hand-held camera's motion blur is worth: a still of a clip is shaken by a hand whose path is known,
// exposed for several shares of a frame's time, and in-betweens half way are compared with the true ones.
//
//     bench_shake CLIP
//
// Prints for each exposure what is found of it, and the mean and the worst tenth of PSNR (luma, decibels,
// without the edge) of a blend, of optical flow without looking at blur, and of optical flow. Standard
// quality.

#include "core/error.h"
#include "core/image/rgb_picture.h"
#include "core/inspection/camera_shake.h"
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "core/motion/flow_estimator.h"
#include "core/synthesis/warp.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <memory>
#include <numbers>
#include <numeric>
#include <random>
#include <vector>

using namespace yarngap;

namespace {

constexpr int width = 640;
constexpr int height = 360;
constexpr int frames = 40;
constexpr double rate = 25;
constexpr int edge = 40; // pixels

/// Swings of up to 10 Hz, the quicker the smaller, each way its own.
class Hand {
  public:
    Hand() {
        std::mt19937 random(7);
        std::normal_distribution<double> normal;
        for (auto& axis : swings_)
            for (std::size_t n = 0; n < axis.size(); ++n) {
                constexpr double strength = 3; // pixels
                const double size = strength / (1 + std::pow(frequency(n) / 2, 1.6));
                axis[n] = {size * normal(random), size * normal(random)};
            }
    }
    [[nodiscard]] std::array<double, 2> at(double frame) const {
        std::array<double, 2> place{};
        for (std::size_t axis = 0; axis < 2; ++axis)
            for (std::size_t n = 0; n < swings_[axis].size(); ++n) {
                const double phase = 2 * std::numbers::pi * frequency(n) * frame / rate;
                place[axis] += swings_[axis][n][0] * std::sin(phase) + swings_[axis][n][1] * std::cos(phase);
            }
        return place;
    }

  private:
    static double frequency(std::size_t n) { return 0.5 * static_cast<double>(n + 1); }
    std::array<std::array<std::array<double, 2>, 20>, 2> swings_{};
};

/// A middle frame's luma, wider than what is shown.
cv::Mat still(const char* clip) {
    FrameSource source(std::make_shared<MediaIndex>(buildIndex(clip)));
    const ImagePtr frame = source.frame(source.frames() / 2);
    const RgbPicture rgb = toScreenRgb(*frame, source.facts().colour, 2 * width, 2 * height);
    const cv::Mat view(rgb.height, rgb.width, CV_8UC4, const_cast<std::uint8_t*>(rgb.bgra.data()),
                       rgb.stride);
    cv::Mat grey;
    cv::cvtColor(view, grey, cv::COLOR_BGRA2GRAY);
    grey.convertTo(grey, CV_32F);
    return grey;
}

/// The still seen at a moment for `exposure` frames, with a little noise.
Image exposed(const cv::Mat& scene, const Hand& hand, double moment, double exposure) {
    constexpr int samples = 12;
    cv::Mat sum = cv::Mat::zeros(height, width, CV_32F);
    for (int i = 0; i < samples; ++i) {
        const auto [x, y] = hand.at(moment + exposure * ((i + 0.5) / samples - 0.5));
        cv::Mat seen;
        cv::warpAffine(scene, seen, cv::Matx23d(1, 0, width / 2.0 + x, 0, 1, height / 2.0 + y),
                       {width, height}, cv::INTER_CUBIC | cv::WARP_INVERSE_MAP, cv::BORDER_REFLECT);
        sum += seen / samples;
    }
    cv::Mat noise(sum.size(), CV_32F);
    cv::RNG random(static_cast<std::uint64_t>(std::llround(2 * moment)) + 1);
    random.fill(noise, cv::RNG::NORMAL, 0, 2);
    cv::Mat rounded;
    cv::Mat(sum + noise).convertTo(rounded, CV_8U);
    Image out(width, height, {.model = ColourModel::grey});
    for (int y = 0; y < height; ++y)
        std::copy_n(rounded.ptr<std::uint8_t>(y), width, out.row<std::uint8_t>(0, y).data());
    return out;
}

cv::Mat inside(const Image& image) {
    const Image::Plane& plane = image.plane(0);
    const cv::Mat view(plane.height, plane.width, CV_8UC1, const_cast<std::byte*>(plane.bytes.data()),
                       plane.stride);
    return view(cv::Rect(edge, edge, plane.width - 2 * edge, plane.height - 2 * edge));
}

struct Column {
    std::vector<double> psnr;

    void add(const cv::Mat& made, const Image& truth) { psnr.push_back(cv::PSNR(made, inside(truth))); }
    [[nodiscard]] double mean() const {
        return std::accumulate(psnr.begin(), psnr.end(), 0.0) / static_cast<double>(psnr.size());
    }
    [[nodiscard]] double worst() {
        std::sort(psnr.begin(), psnr.end());
        const auto tenth = static_cast<std::ptrdiff_t>(std::max<std::size_t>(1, psnr.size() / 10));
        return std::accumulate(psnr.begin(), psnr.begin() + tenth, 0.0) / static_cast<double>(tenth);
    }
};

void measure(const cv::Mat& scene, double exposure) {
    const Hand hand;
    CameraMeter meter;
    std::vector<Image> seen;
    for (int n = 0; n < frames; ++n) {
        seen.push_back(exposed(scene, hand, n, exposure));
        meter.measure(&seen.back());
    }
    const CameraShake shake = cameraShake(meter.steps());
    const auto coarse = [&](std::size_t n) {
        return std::make_shared<const Vectors>(estimateCoarseFlow(seen[n], seen[n + 1], AnalyseOn::asIs));
    };
    std::array<Column, 3> columns;
    for (std::size_t n = 1; n + 2 < seen.size(); ++n) {
        const Image truth = exposed(scene, hand, static_cast<double>(n) + 0.5, exposure);
        const Vectors vectors = estimateFlow(seen[n], seen[n + 1], {});
        Beside beside{.motion = {coarse(n - 1), coarse(n + 1)}};
        columns[0].add((inside(seen[n]) + inside(seen[n + 1])) / 2, truth);
        columns[1].add(inside(warpBetween(seen[n], seen[n + 1], vectors, 0.5, {}, {}, beside).image), truth);
        for (const Shake& gap : shake.gaps)
            if (gap.gap == static_cast<std::int64_t>(n)) beside.shake = gap;
        columns[2].add(inside(warpBetween(seen[n], seen[n + 1], vectors, 0.5, {}, {}, beside).image), truth);
    }
    std::printf("exposed for %.2f: found %.2f (%.1f standard errors); blend %.2f / %.2f, without blur "
                "%.2f / %.2f, with it %.2f / %.2f dB\n",
                exposure, shake.exposure, shake.certainty, columns[0].mean(), columns[0].worst(),
                columns[1].mean(), columns[1].worst(), columns[2].mean(), columns[2].worst());
}

} // namespace

int main(int argc, char** argv) {
    if (argc != 2) {
        std::cerr << "bench_shake CLIP\n";
        return 1;
    }
    try {
        silenceMediaLibraries();
        const cv::Mat scene = still(argv[1]);
        for (const double exposure : {0.0, 0.1, 0.25, 0.5, 0.75})
            measure(scene, exposure);
        return 0;
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
