// How far the camera may go in one gap: a still of a clip, enlarged, is panned by more and more of the width,
// and vectors are compared with the pan they have to find.
//
//     bench_pan CLIP
//
// Prints for each pan the share of pixels seen by both frames whose vector is right to a pixel, and the time,
// of ours in standard and of OpenCV's dense inverse search (medium).

#include "core/error.h"
#include "core/image/rgb_picture.h"
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "core/motion/cell_vectors.h"
#include "core/motion/flow_estimator.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <memory>

using namespace yarngap;

namespace {

constexpr int width = 960;
constexpr int height = 540;
constexpr int down = 20; // pixels that every pan goes down too

double secondsSince(std::chrono::steady_clock::time_point begin) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

/// A middle frame's luma, wide enough for every pan.
cv::Mat still(const char* clip) {
    FrameSource source(std::make_shared<MediaIndex>(buildIndex(clip)));
    const ImagePtr frame = source.frame(source.frames() / 2);
    const RgbPicture rgb = toScreenRgb(*frame, source.facts().colour, 2 * width, height + 2 * down);
    const cv::Mat view(rgb.height, rgb.width, CV_8UC4, const_cast<std::uint8_t*>(rgb.bgra.data()),
                       rgb.stride);
    cv::Mat out;
    cv::cvtColor(view, out, cv::COLOR_BGRA2GRAY);
    return out;
}

Image imageOf(const cv::Mat& picture) {
    Image out(picture.cols, picture.rows, {.model = ColourModel::grey});
    for (int y = 0; y < picture.rows; ++y)
        std::copy_n(picture.ptr<std::uint8_t>(y), picture.cols, out.row<std::uint8_t>(0, y).data());
    return out;
}

/// Percent of vectors that are right to a pixel, of what both pictures see.
double rightOf(const cv::Mat& flow, int pan) {
    constexpr int edge = 20;
    int right = 0;
    int all = 0;
    for (int y = down + edge; y < height - edge; ++y)
        for (int x = pan + edge; x < width - edge; ++x, ++all)
            if (cv::norm(flow.at<cv::Vec2f>(y, x) + cv::Vec2f(static_cast<float>(pan), down)) < 1) ++right;
    return 100.0 * right / all;
}

void measure(const cv::Mat& scene, int pan) {
    const cv::Mat a = scene(cv::Rect(0, 0, width, height)).clone();
    const cv::Mat b = scene(cv::Rect(pan, down, width, height)).clone();
    auto begin = std::chrono::steady_clock::now();
    const Vectors found = estimateFlow(imageOf(a), imageOf(b), {});
    const double ours = secondsSince(begin);
    Vectors vectors = byPixels(found, width, height);
    const cv::Mat forward(height, width, CV_32FC2, vectors.forward.xy.data());
    begin = std::chrono::steady_clock::now();
    const auto dis = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_MEDIUM);
    cv::Mat there;
    cv::Mat back;
    dis->calc(a, b, there);
    dis->calc(b, a, back);
    std::printf("%4d pixels: ours %5.1f %% right, %4.0f ms; plain %5.1f %%, %4.0f ms\n", pan,
                rightOf(forward, pan), 1000 * ours, rightOf(there, pan), 1000 * secondsSince(begin));
}

} // namespace

int main(int argc, char** argv) {
    if (argc != 2) {
        std::cerr << "bench_pan CLIP\n";
        return 1;
    }
    try {
        silenceMediaLibraries();
        const cv::Mat scene = still(argv[1]);
        for (const int pan : {100, 180, 240, 300, 384, 480, 600, 720})
            measure(scene, pan);
        return 0;
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
