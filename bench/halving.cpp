// How close made frames come to real ones: drops every second frame of a clip, makes it again from its
// neighbours, and compares it with the dropped one.
//
//     bench_halving CLIP [--quality draft|standard|thorough] [--frames N]
//
// Prints mean PSNR over R, G and B in decibels; frames that do not move (neighbours alike to above 50 dB)
// are left out, since every method is perfect there.

#include "core/image/rgb_picture.h"
#include "core/media/frame_source.h"
#include "core/motion/flow_estimator.h"
#include "core/synthesis/blend.h"
#include "core/synthesis/warp.h"

#include <array>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <string>
#include <vector>

using namespace yarngap;

namespace {

double psnr(const RgbPicture& a, const RgbPicture& b) {
    double sum = 0;
    for (int y = 0; y < a.height; ++y) {
        const std::size_t row = a.stride * static_cast<std::size_t>(y);
        for (std::size_t i = 0; i < static_cast<std::size_t>(a.width) * 4; ++i)
            if (i % 4 != 3) {
                const double d = static_cast<double>(a.bgra[row + i]) - b.bgra[row + i];
                sum += d * d;
            }
    }
    const double mse = sum / (3.0 * a.width * a.height);
    return mse > 0 ? 10 * std::log10(255.0 * 255.0 / mse) : 99.0;
}

} // namespace

int main(int argc, char** argv) {
    try {
        std::string clip;
        FlowOptions options;
        std::int64_t most = INT64_MAX;
        for (int i = 1; i < argc; ++i) {
            const std::string arg = argv[i];
            if (arg == "--quality" && i + 1 < argc)
                options.quality = parseFlowQuality(argv[++i]);
            else if (arg == "--frames" && i + 1 < argc)
                most = std::stoll(argv[++i]);
            else
                clip = arg;
        }
        FrameSource source(std::make_shared<MediaIndex>(buildIndex(clip)));
        const auto rgb = [&](const Image& image) {
            return toScreenRgb(image, source.facts().colour, image.width(), image.height());
        };
        std::array<double, 3> sum{};
        double flowSeconds = 0;
        double warpSeconds = 0;
        int used = 0;
        for (std::int64_t n = 0; n + 2 < source.frames() && used < most; n += 2) {
            const ImagePtr a = source.frame(n);
            const ImagePtr truth = source.frame(n + 1);
            const ImagePtr b = source.frame(n + 2);
            if (psnr(rgb(*a), rgb(*b)) > 50) continue;
            const RgbPicture real = rgb(*truth);
            const std::array<ImagePtr, 2> both{a, b};
            const std::array<double, 2> halves{0.5, 0.5};
            const auto t0 = std::chrono::steady_clock::now();
            const Vectors vectors = estimateFlow(*a, *b, options);
            const auto t1 = std::chrono::steady_clock::now();
            const WarpedFrame warped = warpBetween(*a, *b, vectors, 0.5);
            const auto t2 = std::chrono::steady_clock::now();
            flowSeconds += std::chrono::duration<double>(t1 - t0).count();
            warpSeconds += std::chrono::duration<double>(t2 - t1).count();
            sum[0] += psnr(rgb(*a), real);
            sum[1] += psnr(rgb(blendFrames(both, halves)), real);
            sum[2] += psnr(rgb(warped.image), real);
            ++used;
        }
        std::printf(
            "%s: %d frames, repeat %.2f, blend %.2f, flow %.2f dB; estimate %.0f ms, warp %.0f ms a frame\n",
            clip.c_str(), used, sum[0] / used, sum[1] / used, sum[2] / used, 1000 * flowSeconds / used,
            1000 * warpSeconds / used);
        return 0;
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
