// How close made frames come to real ones, beside what an engineer would use instead: frames of a clip are
// left out, made again from their neighbours, and compared with the ones left out.
//
//     bench_quality [--quality draft|standard|thorough] [--stiffness N] [--trust-limit N]
//                   [--every N] [--frames N] [--crops FOLDER] CLIP-OR-FOLDER…
//
// --every 2 (the default) leaves out every second frame; of a clip drawn at the fourfold rate, --every 4
// leaves out three of four. Frames that do not move (neighbours alike to above 50 dB) are left out, since
// every method is perfect there; so are those at a cut, across which nothing is made.
//
// Columns: mean and worst-tenth PSNR over R, G and B in decibels; mean SSIM of luma; share of frames worse
// than a blend by more than 0.1 dB. "plain" is OpenCV's dense inverse search (medium) both ways with a
// two-sided cv::remap. Then the rank correlation (Spearman) of doubt with the error, over all clips, and
// times per frame. Of a folder all files are measured that are clips.
//
// --crops writes the hardest place of each clip as FOLDER/<clip>.png: ours, plain, the true frame, and ours
// minus the true one (four times, about grey), each enlarged to twice its size.

#include "core/allocation.h"
#include "core/error.h"
#include "core/image/rgb_picture.h"
#include "core/inspection/camera_shake.h"
#include "core/inspection/shot_findings.h"
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "core/settings/in_betweens.h"
#include "core/synthesis/planned_frames.h"
#include "thinned_frames.h"

#include <OpenImageIO/imageio.h>

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <iostream>
#include <numeric>
#include <optional>
#include <span>
#include <string>
#include <sys/resource.h>
#include <vector>

using namespace yarngap;

namespace {

using Clock = std::chrono::steady_clock;

double secondsSince(Clock::time_point begin) {
    return std::chrono::duration<double>(Clock::now() - begin).count();
}

/// Picture as 8-bit B G R.
cv::Mat bgr(const Image& image, const ColourTags& tags) {
    const RgbPicture rgb = toScreenRgb(image, tags, image.width(), image.height());
    const cv::Mat view(rgb.height, rgb.width, CV_8UC4, const_cast<std::uint8_t*>(rgb.bgra.data()),
                       rgb.stride);
    cv::Mat out;
    cv::cvtColor(view, out, cv::COLOR_BGRA2BGR);
    return out;
}

/// Sum over B, G and R of squared differences where `mask` is set.
double squaresInside(const cv::Mat& mask, const cv::Mat& a, const cv::Mat& b) {
    cv::Mat difference;
    cv::absdiff(a, b, difference);
    difference.setTo(cv::Scalar::all(0), ~mask);
    return cv::norm(difference, cv::NORM_L2SQR);
}

double psnr(const cv::Mat& a, const cv::Mat& b) {
    const double mse = cv::norm(a, b, cv::NORM_L2SQR) / (3.0 * static_cast<double>(a.total()));
    return mse > 0 ? 10 * std::log10(255.0 * 255.0 / mse) : 99.0;
}

/// Structural similarity of luma (Wang, Bovik, Sheikh, Simoncelli 2004), Gaussian window of 11 pixels.
double ssim(const cv::Mat& a, const cv::Mat& b) {
    std::array<cv::Mat, 2> x;
    cv::cvtColor(a, x[0], cv::COLOR_BGR2GRAY);
    cv::cvtColor(b, x[1], cv::COLOR_BGR2GRAY);
    for (cv::Mat& m : x)
        m.convertTo(m, CV_32F);
    const auto mean = [](const cv::Mat& m) {
        cv::Mat out;
        cv::GaussianBlur(m, out, {11, 11}, 1.5);
        return out;
    };
    const cv::Mat ma = mean(x[0]);
    const cv::Mat mb = mean(x[1]);
    const cv::Mat va = mean(x[0].mul(x[0])) - ma.mul(ma);
    const cv::Mat vb = mean(x[1].mul(x[1])) - mb.mul(mb);
    const cv::Mat cov = mean(x[0].mul(x[1])) - ma.mul(mb);
    const double c1 = 0.01 * 255 * 0.01 * 255;
    const double c2 = 0.03 * 255 * 0.03 * 255;
    cv::Mat map;
    cv::divide((2 * ma.mul(mb) + c1).mul(2 * cov + c2), (ma.mul(ma) + mb.mul(mb) + c1).mul(va + vb + c2),
               map);
    return cv::mean(map)[0];
}

/// Pixels within 16 of a place where motion changes by 1.5 pixels or more inside 5 x 5, as plain flow has it.
cv::Mat outlineBand(const cv::Mat& flow) {
    cv::Mat band = cv::Mat::zeros(flow.size(), CV_8U);
    std::array<cv::Mat, 2> parts;
    cv::split(flow, parts.data());
    const cv::Mat window = cv::getStructuringElement(cv::MORPH_RECT, {5, 5});
    for (const cv::Mat& part : parts) {
        cv::Mat most;
        cv::Mat least;
        cv::dilate(part, most, window);
        cv::erode(part, least, window);
        band |= (most - least) >= 1.5;
    }
    cv::dilate(band, band, cv::getStructuringElement(cv::MORPH_ELLIPSE, {33, 33}));
    return band;
}

/// What plain library calls make: both flows, each picture remapped along its own, mixed. Gives the band of
/// outlines too, and adds the time of the two remaps.
cv::Mat plainBetween(const cv::Mat& a, const cv::Mat& b, double phase, cv::Mat& band, double& remapping) {
    cv::Mat la;
    cv::Mat lb;
    cv::cvtColor(a, la, cv::COLOR_BGR2GRAY);
    cv::cvtColor(b, lb, cv::COLOR_BGR2GRAY);
    const auto dis = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_MEDIUM);
    cv::Mat there;
    cv::Mat back;
    dis->calc(la, lb, there);
    dis->calc(lb, la, back);
    band = outlineBand(there);
    const auto along = [&remapping](const cv::Mat& picture, const cv::Mat& flow, double share) {
        cv::Mat map(flow.size(), CV_32FC2);
        for (int y = 0; y < flow.rows; ++y)
            for (int x = 0; x < flow.cols; ++x) {
                const auto& v = flow.at<cv::Vec2f>(y, x);
                map.at<cv::Vec2f>(y, x) = {static_cast<float>(x - share * v[0]),
                                           static_cast<float>(y - share * v[1])};
            }
        cv::Mat out;
        const auto begin = Clock::now();
        cv::remap(picture, out, map, {}, cv::INTER_CUBIC, cv::BORDER_REPLICATE);
        remapping += secondsSince(begin);
        return out;
    };
    cv::Mat out;
    cv::addWeighted(along(a, there, phase), 1 - phase, along(b, back, 1 - phase), phase, 0, out);
    return out;
}

std::vector<double> ranks(const std::vector<double>& values) {
    std::vector<std::size_t> order(values.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(),
              [&](std::size_t i, std::size_t j) { return values[i] < values[j]; });
    std::vector<double> rank(values.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        rank[order[i]] = static_cast<double>(i);
    return rank;
}

/// Rank correlation, −1 to 1.
double spearman(const std::vector<double>& x, const std::vector<double>& y) {
    const std::vector<double> rx = ranks(x);
    const std::vector<double> ry = ranks(y);
    const auto n = static_cast<double>(x.size());
    const double mean = (n - 1) / 2;
    double xy = 0;
    double xx = 0;
    double yy = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        xy += (rx[i] - mean) * (ry[i] - mean);
        xx += (rx[i] - mean) * (rx[i] - mean);
        yy += (ry[i] - mean) * (ry[i] - mean);
    }
    return xy / std::sqrt(xx * yy);
}

struct Column {
    const char* name;
    std::vector<double> psnr = {};
    double ssim = 0;
    double bandSquares = 0; ///< of differences inside the band of outlines
};

double mean(const std::vector<double>& values) {
    return std::accumulate(values.begin(), values.end(), 0.0) / static_cast<double>(values.size());
}

double worstTenth(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    values.resize(std::max<std::size_t>(1, values.size() / 10));
    return mean(values);
}

/// The place where our frames differ most from the true ones.
struct HardestPlace {
    double error = 0;
    std::array<cv::Mat, 3> pictures; ///< ours, plain, true

    static constexpr int width = 160;
    static constexpr int height = 120;

    void look(const cv::Mat& ours, const cv::Mat& plain, const cv::Mat& truth) {
        if (ours.cols < width || ours.rows < height) return;
        cv::Mat difference;
        cv::absdiff(ours, truth, difference);
        difference.convertTo(difference, CV_32F);
        cv::multiply(difference, difference, difference);
        cv::Mat sums;
        cv::transform(difference, sums, cv::Matx13f(1, 1, 1));
        cv::boxFilter(sums, sums, CV_32F, {width, height}, {-1, -1}, false);
        const cv::Rect centres(width / 2, height / 2, ours.cols - width + 1, ours.rows - height + 1);
        double most = 0;
        cv::Point at;
        cv::minMaxLoc(sums(centres), nullptr, &most, nullptr, &at);
        if (most <= error) return;
        error = most;
        const cv::Rect place(at.x, at.y, width, height);
        pictures = {ours(place).clone(), plain(place).clone(), truth(place).clone()};
    }

    void write(const std::filesystem::path& file) const {
        if (pictures[0].empty()) return;
        cv::Mat wide;
        pictures[0].convertTo(wide, CV_16S);
        cv::Mat truth;
        pictures[2].convertTo(truth, CV_16S);
        cv::Mat difference = (wide - truth) * 4 + cv::Scalar::all(128);
        difference.convertTo(difference, CV_8U);
        cv::Mat row;
        cv::hconcat(std::vector<cv::Mat>{pictures[0], pictures[1], pictures[2], difference}, row);
        cv::resize(row, row, {}, 2, 2, cv::INTER_NEAREST);
        cv::cvtColor(row, row, cv::COLOR_BGR2RGB);
        const OIIO::ImageSpec spec(row.cols, row.rows, 3, OIIO::TypeDesc::UINT8);
        const auto out = OIIO::ImageOutput::create(file.string());
        if (!out || !out->open(file.string(), spec) || !out->write_image(OIIO::TypeDesc::UINT8, row.data) ||
            !out->close())
            throw Error(file.string() + " cannot be written.");
    }
};

/// The shake of the camera as those frames tell that are kept.
std::vector<Shake> shakesOf(FrameSource& source, std::int64_t every, std::span<const std::int64_t> cuts) {
    CameraMeter meter;
    for (std::int64_t n = 0; n < source.frames(); n += every)
        meter.measure(source.frame(n).get());
    std::vector<CameraStep> steps = meter.steps();
    for (const std::int64_t first : cuts)
        if (first > 0 && !steps.empty())
            steps.at(std::min(steps.size() - 1, static_cast<std::size_t>((first - 1) / every))).known = false;
    return cameraShake(steps).gaps;
}

struct Doubts {
    std::vector<double> doubt, error;
};

/// The thinned clip slowed down to its own length, as the program makes it.
PlannedFrames slowed(const std::shared_ptr<FrameSource>& source, std::int64_t every,
                     const InBetweens& options, std::span<const std::int64_t> cuts) {
    const auto thinned = std::make_shared<ThinnedFrames>(source, every);
    Treatment treatment(SettingsInForce(GapSettings{Method::flow, options}));
    treatment.found.shakes = shakesOf(*source, every, cuts);
    for (const std::int64_t first : cuts) {
        const std::int64_t gap = (first - 1) / every;
        if (treatment.found.cuts.empty() || treatment.found.cuts.back() < gap)
            treatment.found.cuts.push_back(gap);
    }
    const Rate rate = source->facts().rate;
    const Timing timing{.sourceRate = rate,
                        .outputRate = rate,
                        .from = 0,
                        .to = thinned->frames() - 1,
                        .speed = Rational(1, every)};
    const auto plan = std::make_shared<const FramePlan>(makePlan(timing, treatment, thinned->frames()));
    return {plan, FrameMaker(thinned, std::make_shared<VectorStore>(), plan->settings)};
}

void measure(const std::string& clip, const InBetweens& options, std::int64_t every, std::int64_t most,
             const std::string& crops, Doubts& doubts) {
    HardestPlace hardest;
    const auto index = std::make_shared<MediaIndex>(buildIndex(clip));
    const auto source = std::make_shared<FrameSource>(index);
    const std::vector<std::int64_t> cuts = inspectShot(index).cuts;
    const PlannedFrames ours = slowed(source, every, options, cuts);
    const ColourTags& tags = source->facts().colour;
    std::array<Column, 4> columns{Column{"repeat"}, Column{"blend"}, Column{"plain"}, Column{"ours"}};
    double estimating = 0;
    double warping = 0;
    double plain = 0;
    double remapping = 0;
    double bandSamples = 0;
    std::int64_t gaps = 0;
    for (std::int64_t n = 0; n + every < source->frames() && gaps < most; n += every) {
        const cv::Mat before = bgr(*source->frame(n), tags);
        const cv::Mat after = bgr(*source->frame(n + every), tags);
        if (ours.row(n + 1).atCut || psnr(before, after) > 50) continue;
        ++gaps;
        for (std::int64_t k = 1; k < every; ++k) {
            const double phase = static_cast<double>(k) / static_cast<double>(every);
            const cv::Mat truth = bgr(*source->frame(n + k), tags);
            cv::Mat blended;
            cv::addWeighted(before, 1 - phase, after, phase, 0, blended);
            auto begin = Clock::now();
            cv::Mat band;
            const cv::Mat remapped = plainBetween(before, after, phase, band, remapping);
            plain += secondsSince(begin);
            const auto making = ours.begin(n + k);
            making->read({});
            begin = Clock::now();
            making->estimate({});
            estimating += secondsSince(begin);
            begin = Clock::now();
            const MadeFrame frame = making->finish({});
            warping += secondsSince(begin);
            const std::array<cv::Mat, 4> made{phase > 0.5 ? after : before, blended, remapped,
                                              bgr(*frame.image, tags)};
            if (!crops.empty()) hardest.look(made[3], made[2], truth);
            for (std::size_t c = 0; c < made.size(); ++c) {
                columns[c].psnr.push_back(psnr(made[c], truth));
                columns[c].ssim += ssim(made[c], truth);
                columns[c].bandSquares += squaresInside(band, made[c], truth);
            }
            bandSamples += 3.0 * cv::countNonZero(band);
            doubts.doubt.push_back(frame.doubt.value_or(0));
            doubts.error.push_back(-columns[3].psnr.back());
        }
    }
    const auto frames = static_cast<double>(columns[0].psnr.size());
    if (frames == 0) {
        std::printf("%s: nothing in it moves\n", clip.c_str());
        return;
    }
    std::printf(
        "%s: %.0f frames; estimate %.0f ms a gap, warp %.0f ms a frame; plain %.0f ms a frame, of it two "
        "remaps %.0f\n",
        clip.c_str(), frames, 1000 * estimating / static_cast<double>(gaps), 1000 * warping / frames,
        1000 * plain / frames, 1000 * remapping / frames);
    for (const Column& column : columns) {
        double worse = 0;
        for (std::size_t i = 0; i < column.psnr.size(); ++i)
            worse += column.psnr[i] < columns[1].psnr[i] - 0.1 ? 1 : 0;
        std::printf("  %-7s mean %6.2f dB  worst tenth %6.2f dB  SSIM %.4f  outlines %6.2f dB  worse than a "
                    "blend %3.0f %%\n",
                    column.name, mean(column.psnr), worstTenth(column.psnr), column.ssim / frames,
                    10 * std::log10(255.0 * 255.0 * bandSamples / column.bandSquares), 100 * worse / frames);
    }
    std::fflush(stdout);
    if (!crops.empty())
        hardest.write(std::filesystem::path(crops) / (std::filesystem::path(clip).stem().string() + ".png"));
}

std::vector<std::string> filesIn(const std::string& folder) {
    std::vector<std::string> out;
    for (const auto& entry : std::filesystem::directory_iterator(folder))
        if (entry.is_regular_file()) out.push_back(entry.path().string());
    std::sort(out.begin(), out.end());
    return out;
}

} // namespace

int main(int argc, char** argv) {
    reuseFreedMemory(); // as the program does
    try {
        silenceMediaLibraries();
        InBetweens options;
        std::int64_t every = 2;
        std::int64_t most = INT64_MAX;
        std::string crops;
        std::vector<std::string> clips;
        for (int i = 1; i < argc; ++i) {
            const std::string arg = argv[i];
            if (arg == "--quality" && i + 1 < argc)
                options.flow.quality = parseFlowQuality(argv[++i]);
            else if (arg == "--stiffness" && i + 1 < argc)
                options.flow.stiffness = std::stoi(argv[++i]);
            else if (arg == "--trust-limit" && i + 1 < argc)
                options.synthesis.trustLimit = std::stoi(argv[++i]);
            else if (arg == "--crops" && i + 1 < argc)
                crops = argv[++i];
            else if (arg == "--every" && i + 1 < argc)
                every = std::max(2LL, std::stoll(argv[++i]));
            else if (arg == "--frames" && i + 1 < argc)
                most = std::stoll(argv[++i]);
            else
                clips.push_back(arg);
        }
        Doubts doubts;
        for (const std::string& clip : clips) {
            if (!std::filesystem::is_directory(clip)) {
                measure(clip, options, every, most, crops, doubts);
                continue;
            }
            for (const std::string& file : filesIn(clip)) {
                try {
                    measure(file, options, every, most, crops, doubts);
                } catch (const Error& error) {
                    std::printf("%s left out: %s\n", file.c_str(), error.what());
                }
            }
        }
        rusage usage{};
        ::getrusage(RUSAGE_SELF, &usage);
        if (doubts.doubt.size() > 2)
            std::printf("doubt against error over all frames: rank correlation %.2f; peak memory %ld MB\n",
                        spearman(doubts.doubt, doubts.error), usage.ru_maxrss / 1024);
        return 0;
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
