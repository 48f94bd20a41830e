// How long a flow frame takes once its vectors are there, beside what an engineer would call instead: two
// cubic cv::remap of the same planes along the same motion. Medians of pairs taken in turn, since machines
// are noisy.
//
//     bench_warp [--scale PERCENT] [--thorough] CLIP [FRAME]
//
// FRAME is the gap, in the middle by default; --scale enlarges its pictures first (300 makes 4K of 720p);
// --thorough takes the vectors of that quality, and with them the several motions of which a frame is the
// mean (see continueMotion).

#include "core/synthesis/warp.h"
#include "core/allocation.h"
#include "core/error.h"
#include "core/media/frame_source.h"
#include "core/motion/continued_motion.h"
#include "core/motion/flow_estimator.h"
#include "core/synthesis/mid_motion.h"
#include "core/synthesis/spline_plane.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdio>
#include <functional>
#include <iostream>
#include <string>
#include <vector>

using namespace yarngap;

namespace {

double milliseconds(const std::function<void()>& work) {
    const auto begin = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
}

cv::Mat viewOf(const Image& image, int p) {
    const Image::Plane& plane = image.plane(p);
    return {plane.height, plane.width, image.layout().depth > 8 ? CV_16U : CV_8U,
            const_cast<std::byte*>(plane.bytes.data()), plane.stride}; // only read
}

Image enlarged(const Image& image, int percent) {
    if (percent == 100) return image;
    Image out(image.width() * percent / 100, image.height() * percent / 100, image.layout());
    for (int p = 0; p < out.planeCount(); ++p) {
        cv::Mat to = viewOf(out, p);
        cv::resize(viewOf(image, p), to, to.size(), 0, 0, cv::INTER_CUBIC);
    }
    return out;
}

/// Both pictures remapped along half the motion, all planes; the maps are made beforehand.
class Remaps {
  public:
    Remaps(const Image& a, const Image& b, const Vectors& vectors)
        : pictures_{&a, &b} {
        const std::array<const VectorField*, 2> fields{&vectors.forward, &vectors.backward};
        for (std::size_t side = 0; side < 2; ++side)
            for (int p = 0; p < a.planeCount(); ++p) {
                const cv::Size size(a.plane(p).width, a.plane(p).height);
                const cv::Mat flow(fields[side]->height, fields[side]->width, CV_32FC2,
                                   const_cast<float*>(fields[side]->xy.data())); // only read
                cv::Mat map;
                cv::resize(flow, map, size);
                for (int y = 0; y < size.height; ++y)
                    for (int x = 0; x < size.width; ++x) {
                        auto& place = map.at<cv::Vec2f>(y, x);
                        const float shrunk =
                            0.5F * static_cast<float>(size.width) / static_cast<float>(a.width());
                        place = {static_cast<float>(x) - shrunk * place[0],
                                 static_cast<float>(y) - shrunk * place[1]};
                    }
                maps_[side].push_back(map);
            }
    }
    void run() const {
        for (std::size_t side = 0; side < 2; ++side)
            for (int p = 0; p < pictures_[side]->planeCount(); ++p) {
                cv::Mat out;
                cv::remap(viewOf(*pictures_[side], p), out, maps_[side][static_cast<std::size_t>(p)], {},
                          cv::INTER_CUBIC, cv::BORDER_REPLICATE);
            }
    }

  private:
    std::array<const Image*, 2> pictures_;
    std::array<std::vector<cv::Mat>, 2> maps_;
};

double median(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    return values[values.size() / 2];
}

/// Vectors from `a` to `b`, the frames at both ends of a gap, as a frame of this quality has them.
Vectors vectorsOf(const Image& a, const Image& b, bool thorough, FrameSource& source, std::int64_t gap,
                  int percent) {
    if (!thorough) return estimateFlow(a, b, {});
    if (gap < 1 || gap + 2 >= source.frames())
        throw Error("Gap " + std::to_string(gap) + " has none on both sides, which --thorough needs.");
    const auto before = std::make_shared<const Image>(enlarged(*source.frame(gap - 1), percent));
    const auto after = std::make_shared<const Image>(enlarged(*source.frame(gap + 2), percent));
    const auto standard = [](const Image& from, const Image& to) {
        return std::make_shared<const Vectors>(estimateFlow(from, to, {}));
    };
    return continueMotion(estimateFlow(a, b, {.quality = FlowQuality::thorough}), a, b,
                          {{"before", before, standard(*before, a)}, {"after", after, standard(b, *after)}},
                          AnalyseOn::asIs);
}

void measure(const std::string& clip, std::int64_t gap, int percent, bool thorough) {
    FrameSource source(std::make_shared<MediaIndex>(buildIndex(clip)));
    if (gap < 0) gap = (source.frames() - 1) / 2;
    const Image a = enlarged(*source.frame(gap), percent);
    const Image b = enlarged(*source.frame(gap + 1), percent);
    const Vectors vectors = vectorsOf(a, b, thorough, source, gap, percent);
    const Remaps remaps(a, b, vectors);
    std::vector<double> warp;
    std::vector<double> project;
    std::vector<double> splines;
    std::vector<double> library;
    const CellPicture cellsA = cellPicture(a);
    const CellPicture cellsB = cellPicture(b);
    for (int run = 0; run < 9; ++run) {
        warp.push_back(milliseconds([&] { (void)warpBetween(a, b, vectors, 0.5); }));
        library.push_back(milliseconds([&] { remaps.run(); }));
        project.push_back(milliseconds([&] { (void)projectMotions(vectors, cellsA, cellsB, 0.5); }));
        splines.push_back(milliseconds([&] {
            for (int p = 0; p < a.planeCount(); ++p) {
                const SplinePlane one(a, p);
                const SplinePlane other(b, p);
            }
        }));
    }
    std::printf(
        "%s %dx%d, gap %lld: warp %.0f ms (of it motion %.0f, splines %.0f), two remaps %.0f ms, ratio "
        "%.2f\n",
        clip.c_str(), a.width(), a.height(), static_cast<long long>(gap), median(warp), median(project),
        median(splines), median(library), median(warp) / median(library));
}

} // namespace

int main(int argc, char** argv) {
    reuseFreedMemory(); // as the program does; the library call gains by it too
    const std::vector<std::string> arguments(argv + 1, argv + argc);
    int percent = 100;
    bool thorough = false;
    std::vector<std::string> rest;
    try {
        for (std::size_t i = 0; i < arguments.size(); ++i)
            if (arguments[i] == "--scale" && i + 1 < arguments.size())
                percent = std::stoi(arguments[++i]);
            else if (arguments[i] == "--thorough")
                thorough = true;
            else
                rest.push_back(arguments[i]);
        if (rest.empty() || rest.size() > 2 || percent < 10 || percent > 1000) {
            std::cerr << "Usage: bench_warp [--scale PERCENT] [--thorough] CLIP [FRAME]\n";
            return 2;
        }
        measure(rest[0], rest.size() > 1 ? std::stoll(rest[1]) : -1, percent, thorough);
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
    return 0;
}
