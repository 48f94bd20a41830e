// What finishing costs.
//
//     bench_finish geometry            time beside cubic remapping of the library, by ratio
//     bench_finish resampling CLIP     half a pixel there and back, PSNR of luma beside Lanczos 4 and cubic
//     bench_finish change CLIP         time from a new value to the picture, the made frame being there

#include "core/finish/frames_with_finish.h"
#include "core/finish/measured_finish.h"
#include "core/finish/picture_reading.h"
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "core/shot/ready_shot.h"
#include "seconds_of.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <functional>
#include <iostream>
#include <memory>
#include <string>
#include <vector>

using namespace yarngap;

namespace {

/// The least time of several runs, in milliseconds.
double millisecondsOf(const std::function<void()>& work) {
    work();
    double least = 1e9;
    constexpr int runs = 9;
    for (int i = 0; i < runs; ++i)
        least = std::min(least, secondsOf(work));
    return least * 1000;
}

cv::Mat matOf(const Image& image, int p) {
    const Image::Plane& plane = image.plane(p);
    return {plane.height, plane.width, image.layout().bytesPerSample() == 1 ? CV_8U : CV_16U,
            const_cast<std::byte*>(plane.bytes.data()), plane.stride};
}

std::shared_ptr<FrameSource> sourceOf(const char* clip) {
    return std::make_shared<FrameSource>(std::make_shared<const MediaIndex>(buildIndex(clip)),
                                         std::size_t{256} << 20);
}

// ---- Geometry

Image noisyPicture(int width, int height, int depth) {
    Image image(width, height, {.depth = depth, .chromaShiftX = 1, .chromaShiftY = 1});
    cv::RNG random(5);
    for (int p = 0; p < 3; ++p)
        random.fill(matOf(image, p), cv::RNG::UNIFORM, 0, 1 << depth);
    return image;
}

void geometry() {
    for (const int depth : {8, 10}) {
        const Image image = noisyPicture(1920, 1080, depth);
        std::vector<std::array<cv::Mat, 2>> maps(3);
        for (int p = 0; p < 3; ++p) {
            const cv::Mat plane = matOf(image, p);
            cv::Mat x(plane.size(), CV_32F);
            cv::Mat y(plane.size(), CV_32F);
            for (int j = 0; j < plane.rows; ++j)
                for (int i = 0; i < plane.cols; ++i) {
                    x.at<float>(j, i) = static_cast<float>(i) / 1.06F + 30.3F / (p ? 2 : 1);
                    y.at<float>(j, i) = static_cast<float>(j) / 1.06F + 20.7F / (p ? 2 : 1);
                }
            maps[static_cast<std::size_t>(p)] = {x, y};
        }
        const double library = millisecondsOf([&] {
            for (int p = 0; p < 3; ++p) {
                cv::Mat out;
                cv::remap(matOf(image, p), out, maps[static_cast<std::size_t>(p)][0],
                          maps[static_cast<std::size_t>(p)][1], cv::INTER_CUBIC, cv::BORDER_REPLICATE);
            }
        });
        const auto ours = [&](const Mapping& mapping) {
            return millisecondsOf([&] { (void)readThrough(image, mapping, 1920, 1080, {}); });
        };
        const Plane scaled{1 / 1.06, 0, 30.3, 0, 1 / 1.06, 20.7};
        const double one = ours({scaled, {}});
        const Plane turned = Plane::turned(0.02, 1).after(scaled);
        const double turn = ours({turned, {}});
        Plane many = turned;
        for (int i = 0; i < 5; ++i)
            many = Plane::scaledAbout({960, 540}, 0.999).after(many);
        const double all = ours({many, {}});
        const double lens = ours({many, {.centre = {960, 540}, .radius = 1101, .stretch = 1, .amount = 0.2}});
        std::printf("%2d bit: scaled and moved %.1f ms, %.2f of cv::remap (%.1f ms); turned %.2f of that; "
                    "seven parts "
                    "%.2f of turned, with a lens %.2f\n",
                    depth, one, one / library, library, turn / one, all / turn, lens / turn);
    }
}

// ---- Resampling

void resampling(const char* clip) {
    const auto source = sourceOf(clip);
    const ImagePtr frame = source->frame(source->frames() / 2);
    cv::Mat luma;
    matOf(*frame, 0).convertTo(luma, CV_32F);
    Image grey(luma.cols, luma.rows, {.model = ColourModel::grey, .samples = SampleKind::real});
    for (int y = 0; y < luma.rows; ++y)
        std::copy_n(luma.ptr<float>(y), luma.cols, grey.row<float>(0, y).begin());
    const double peak = frame->layout().maxValue();
    const auto psnr = [&](const cv::Mat& made) {
        const cv::Rect inner(16, 16, luma.cols - 32, luma.rows - 32);
        const double error =
            cv::norm(made(inner), luma(inner), cv::NORM_L2SQR) / static_cast<double>(inner.area());
        return 10 * std::log10(peak * peak / error);
    };
    const Mapping there{Plane::shift(0.5, 0.5), {}};
    const Mapping back{Plane::shift(-0.5, -0.5), {}};
    const Image again = readThrough(readThrough(grey, there, grey.width(), grey.height(), {}), back,
                                    grey.width(), grey.height(), {});
    cv::Mat ours(luma.size(), CV_32F);
    for (int y = 0; y < luma.rows; ++y)
        std::copy_n(again.row<float>(0, y).begin(), luma.cols, ours.ptr<float>(y));
    const auto library = [&](int how) {
        cv::Mat made = luma;
        for (const double by : {0.5, -0.5}) {
            cv::Mat out;
            cv::warpAffine(made, out, cv::Matx23d(1, 0, by, 0, 1, by), luma.size(),
                           how | cv::WARP_INVERSE_MAP, cv::BORDER_REFLECT);
            made = out;
        }
        return psnr(made);
    };
    std::printf("half a pixel there and back: spline %.2f dB, Lanczos 4 %.2f, cubic %.2f\n", psnr(ours),
                library(cv::INTER_LANCZOS4), library(cv::INTER_CUBIC));
}

// ---- A change

void change(const char* clip) {
    const auto index = std::make_shared<const MediaIndex>(buildIndex(clip));
    const Footage footage = footageOf(index, {}, std::size_t{256} << 20);
    const auto memory = std::make_shared<FramesWithFinish::Memory>(std::size_t{128} << 20);
    Shot shot = shotOf(clip);
    shot.speed = Rational(1, 2);
    const Making making{.vectors = std::make_shared<VectorStore>(std::size_t{128} << 20),
                        .unfinished = memory};
    const auto timeOf = [&](const char* what, const Finish& finish) {
        shot.finish = finish;
        const ReadyShot ready = readyShot(shot, footage, {}, making);
        (void)ready.frames->make(5);
        const double one = millisecondsOf([&] { (void)ready.frames->make(5); });
        std::printf("%-28s %6.1f ms\n", what, one);
    };
    Finish finish;
    finish.places = {{.scale = 1.1, .x = 0.01}};
    timeOf("scale and place", finish);
    Finish tone;
    tone.tones = {{.black = 0.05, .gamma = 1.2, .saturation = 1.1}};
    timeOf("tone", tone);
    Finish soft;
    soft.texture.soften = 50;
    timeOf("soften", soft);
    Finish sharp;
    sharp.texture.sharpen = 50;
    timeOf("sharpen", sharp);
    Finish grain;
    grain.texture.grain = GrainKind::added;
    timeOf("grain added", grain);
    Finish matched;
    matched.texture.grain = GrainKind::matched;
    matched.texture.own = measuredGrain(*footage.frames, 0, 9);
    timeOf("grain matched", matched);
    Finish smear;
    smear.smears = {{.from = 0, .to = 6, .length = 0.12, .bulge = 30}};
    timeOf("smear with bulge", smear);
    Finish all = finish;
    all.tones = tone.tones;
    all.texture.sharpen = 50;
    all.texture.grain = GrainKind::added;
    all.smears = smear.smears;
    timeOf("all of it", all);
}

} // namespace

int main(int argc, char** argv) {
    silenceMediaLibraries();
    const std::string what = argc > 1 ? argv[1] : "";
    try {
        if (what == "geometry")
            geometry();
        else if (what == "resampling" && argc > 2)
            resampling(argv[2]);
        else if (what == "change" && argc > 2)
            change(argv[2]);
        else {
            std::cerr << "See the top of the file that this is built from.\n";
            return 2;
        }
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
    return 0;
}
