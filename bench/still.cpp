// How well things and cameras are held still.
//
//     bench_still follow CLIP   a thing cut out of the clip moves as is known: error of the path, pixels
//     bench_still hold CLIP     corners followed and held; what still moves there, by correlation
//     bench_still calm CLIP     a still of the clip is shaken as is known, something moves before it
//     bench_still path CLIP     how much quick shake the clip's own path has before and after

#include "core/finish/finish_geometry.h"
#include "core/finish/follow_point.h"
#include "core/finish/picture_reading.h"
#include "core/image/rgb_picture.h"
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "core/shot/ready_shot.h"
#include "listed_frames.h"
#include "seconds_of.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <memory>
#include <numbers>
#include <random>
#include <string>
#include <vector>

using namespace yarngap;

namespace {

cv::Mat matOf(const Image& image, int p) {
    const Image::Plane& plane = image.plane(p);
    return {plane.height, plane.width, image.layout().bytesPerSample() == 1 ? CV_8U : CV_16U,
            const_cast<std::byte*>(plane.bytes.data()), plane.stride};
}

std::shared_ptr<FrameSource> sourceOf(const char* clip) {
    return std::make_shared<FrameSource>(std::make_shared<const MediaIndex>(buildIndex(clip)),
                                         std::size_t{256} << 20);
}

// ---- Drawn motion

cv::Mat stillOf(const char* clip, int width, int height) {
    const auto source = sourceOf(clip);
    const ImagePtr frame = source->frame(source->frames() / 2);
    const RgbPicture rgb = toScreenRgb(*frame, source->facts().colour, width, height);
    const cv::Mat view(rgb.height, rgb.width, CV_8UC4, const_cast<std::uint8_t*>(rgb.bgra.data()),
                       rgb.stride);
    cv::Mat grey;
    cv::cvtColor(view, grey, cv::COLOR_BGRA2GRAY);
    grey.convertTo(grey, CV_32F);
    return grey;
}

ImagePtr pictureOf(const cv::Mat& floats, double grain, std::uint64_t seed) {
    cv::Mat noise(floats.size(), CV_32F);
    cv::RNG random(seed + 1);
    random.fill(noise, cv::RNG::NORMAL, 0, std::max(grain, 1e-6));
    cv::Mat rounded;
    cv::Mat(floats + noise).convertTo(rounded, CV_8U);
    auto out = std::make_shared<Image>(floats.cols, floats.rows, PixelLayout{.model = ColourModel::grey});
    for (int y = 0; y < floats.rows; ++y)
        std::copy_n(rounded.ptr<std::uint8_t>(y), floats.cols, out->row<std::uint8_t>(0, y).begin());
    return out;
}

/// Read at places to a thousandth of a pixel: the library's own warps know but 32 places between two.
cv::Mat readAt(const cv::Mat& picture, const cv::Matx23d& to, cv::Size size) {
    FloatPicture in{
        picture.cols, picture.rows, {.model = ColourModel::grey, .samples = SampleKind::real}, {}};
    FloatPlane plane(picture.cols, picture.rows);
    for (int y = 0; y < picture.rows; ++y)
        std::copy_n(picture.ptr<float>(y), picture.cols, plane.row(y));
    in.planes.push_back(std::move(plane));
    // From middles of pixels to corners.
    const Plane corners = Plane::shift(0.5, 0.5)
                              .after({to(0, 0), to(0, 1), to(0, 2), to(1, 0), to(1, 1), to(1, 2)})
                              .after(Plane::shift(-0.5, -0.5));
    const FloatPicture out = readThrough(in, {corners, {}}, size.width, size.height, {});
    cv::Mat read(size, CV_32F);
    for (int y = 0; y < size.height; ++y)
        std::copy_n(out.planes.front().row(y), size.width, read.ptr<float>(y));
    return read;
}

struct Hardship {
    const char* name;
    bool turns = false, blurs = false, hides = false, lightens = false;
    double grain = 1;
};

constexpr int drawnFrames = 60;
constexpr int drawnWidth = 640;
constexpr int drawnHeight = 360;

/// The way of the thing: where its middle is, how it is turned and sized.
struct Pose {
    double x, y, turn, size;
};
Pose poseAt(double t, bool turns) {
    return {320 + 90 * std::sin(0.11 * t) + 0.3 * t, 180 + 40 * std::cos(0.17 * t) - 40,
            turns ? 0.5 * std::sin(0.09 * t) : 0, turns ? 1 + 0.25 * std::sin(0.07 * t) : 1};
}

/// Part of the clip that moves before another part of it.
cv::Mat drawn(const cv::Mat& thing, const cv::Mat& ground, double t, const Hardship& hard) {
    cv::Mat sum = cv::Mat::zeros(drawnHeight, drawnWidth, CV_32F);
    const int samples = hard.blurs ? 16 : 1;
    for (int i = 0; i < samples; ++i) {
        const Pose pose = poseAt(hard.blurs ? t + 0.5 * ((i + 0.5) / samples - 0.5) : t, hard.turns);
        const double re = std::cos(pose.turn) / pose.size;
        const double im = std::sin(pose.turn) / pose.size;
        // From places of the frame to places of the thing, whose middle is its own.
        const cv::Matx23d to(re, im, thing.cols / 2.0 - 0.5 - re * (pose.x - 0.5) - im * (pose.y - 0.5), -im,
                             re, thing.rows / 2.0 - 0.5 + im * (pose.x - 0.5) - re * (pose.y - 0.5));
        cv::Mat seen;
        cv::Mat mask;
        seen = readAt(thing, to, sum.size());
        cv::Mat disc = cv::Mat::zeros(thing.size(), CV_32F);
        cv::circle(disc, {thing.cols / 2, thing.rows / 2}, thing.rows / 2 - 4, 1, cv::FILLED, cv::LINE_AA);
        cv::warpAffine(disc, mask, to, sum.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP);
        sum += (seen.mul(mask) + ground.mul(1 - mask)) / samples;
    }
    if (hard.hides && t > 0) { // posts pass before it, of which one hides a fifth of the square at most times
        const Pose pose = poseAt(t, hard.turns);
        const int left = static_cast<int>(pose.x - 30 + std::fmod(2.7 * t, 50));
        sum(cv::Rect(std::clamp(left, 0, drawnWidth - 10), 0, 10, drawnHeight)) = 30;
    }
    if (hard.lightens) sum = sum * (1 + 0.25 * std::sin(0.2 * t)) + 10 * std::sin(0.13 * t);
    return sum;
}

void follow(const char* clip) {
    const cv::Mat still = stillOf(clip, 2 * drawnWidth, 2 * drawnHeight);
    const cv::Mat thing = still(cv::Rect(500, 200, 160, 160)).clone();
    const cv::Mat ground = still(cv::Rect(0, 300, drawnWidth, drawnHeight)).clone();
    const std::vector<Hardship> all{{"shifted"},
                                    {"turned, sized", true},
                                    {"blurred by 180°", false, true},
                                    {"a fifth hidden", false, false, true},
                                    {"light changes", false, false, false, true},
                                    {"grain of 6", false, false, false, false, 6},
                                    {"all of it", true, true, true, true, 4}};
    std::printf("%-18s %8s %8s %6s %9s\n", "", "mean", "worst", "lost", "> 0.3 px");
    for (const Hardship& hard : all) {
        std::vector<ImagePtr> frames;
        frames.reserve(drawnFrames);
        for (int n = 0; n < drawnFrames; ++n)
            frames.push_back(
                pictureOf(drawn(thing, ground, n, hard), hard.grain, static_cast<std::uint64_t>(n)));
        const auto source = std::make_shared<Listed>(frames, Rate(24, 1));
        const Pose start = poseAt(0, hard.turns);
        const auto vectors = std::make_shared<VectorStore>(std::size_t{128} << 20);
        const FollowReport report = followPoint(
            {source, vectors, {}},
            {.frame = 0, .at = {start.x, start.y}, .reach = 24, .first = 0, .last = drawnFrames - 1});
        double sum = 0;
        double worst = 0;
        int off = 0;
        for (const FollowedPoint& p : report.path) {
            const Pose pose = poseAt(static_cast<double>(p.frame), hard.turns);
            const double error = std::hypot(p.at.x - pose.x, p.at.y - pose.y);
            sum += error;
            worst = std::max(worst, error);
            off += error > 0.3 ? 1 : 0;
        }
        std::printf("%-18s %8.3f %8.3f %6d %9d  %s\n", hard.name,
                    sum / static_cast<double>(report.path.size()), worst,
                    drawnFrames - static_cast<int>(report.path.size()), off, report.whyAfter.c_str());
    }
}

// ---- Holding on real clips

/// Where the square of a picture lies in another near the same place: by correlation, to a part of a pixel by
/// a parabola through the best and those beside it.
cv::Point2d offOf(const cv::Mat& first, const cv::Mat& now, cv::Point at, int reach) {
    constexpr int search = 6;
    const cv::Mat square = first(cv::Rect(at.x - reach, at.y - reach, 2 * reach, 2 * reach));
    const int around = reach + search;
    cv::Mat alike;
    cv::matchTemplate(now(cv::Rect(at.x - around, at.y - around, 2 * around, 2 * around)), square, alike,
                      cv::TM_CCOEFF_NORMED);
    cv::Point best;
    cv::minMaxLoc(alike, nullptr, nullptr, nullptr, &best);
    const auto finer = [&](cv::Point step) {
        const cv::Point a = best - step;
        const cv::Point b = best + step;
        if (std::min(a.x, a.y) < 0 || b.x >= alike.cols || b.y >= alike.rows) return 0.0;
        const double l = alike.at<float>(a);
        const double m = alike.at<float>(best);
        const double r = alike.at<float>(b);
        return std::abs(l - 2 * m + r) > 1e-12 ? 0.5 * (l - r) / (l - 2 * m + r) : 0.0;
    };
    return {best.x - search + finer({1, 0}), best.y - search + finer({0, 1})};
}

void hold(const char* clip) {
    const auto index = std::make_shared<const MediaIndex>(buildIndex(clip));
    const Footage footage = footageOf(index, {}, std::size_t{256} << 20);
    const auto vectors = std::make_shared<VectorStore>(std::size_t{128} << 20);
    const auto lumaOf = [](const Image& image) {
        cv::Mat luma;
        matOf(image, 0).convertTo(luma, CV_32F);
        return luma;
    };
    const std::int64_t from = footage.axis->frames() / 3;
    const std::int64_t last = std::min<std::int64_t>(footage.axis->frames() - 1, from + 24);
    const double reach = usualReach(footage.axis->facts().width);
    const cv::Mat start = lumaOf(*footage.frames->frame(from));
    cv::Mat inner = cv::Mat::zeros(start.size(), CV_8U);
    inner(cv::Rect(70, 70, start.cols - 140, start.rows - 140)) = 255;
    std::vector<cv::Point2f> corners;
    cv::goodFeaturesToTrack(start, corners, 6, 0.05, start.cols / 8.0, inner, 9);
    for (const cv::Point2f& corner : corners) {
        const PicturePoint at{std::floor(static_cast<double>(corner.x)),
                              std::floor(static_cast<double>(corner.y))};
        const FollowReport report =
            followPoint({footage.frames, vectors, {}},
                        {.frame = from, .at = at, .reach = reach, .first = from, .last = last});
        Shot shot = shotOf(clip);
        shot.from = from;
        shot.to = last;
        shot.speed = Rational(1, 2);
        shot.finish.hold = {.path = report.path, .frame = from};
        const ReadyShot ready = readyShot(shot, footage, {}, {.vectors = vectors});
        const cv::Point place(static_cast<int>(at.x), static_cast<int>(at.y));
        const cv::Mat first = lumaOf(*ready.frames->make(0).image);
        std::array<double, 2> sum{};
        std::array<double, 2> worst{};
        std::array<int, 2> count{};
        double motion = 0;
        for (std::int64_t n = 1; n < ready.frames->count(); ++n) {
            const PlanRow& row = ready.frames->row(n);
            if (row.last > report.path.back().frame) break;
            const cv::Point2d off =
                offOf(first, lumaOf(*ready.frames->make(n).image), place, static_cast<int>(reach));
            const std::size_t made = row.kind == FrameKind::flow ? 1 : 0;
            const double error = std::hypot(off.x, off.y);
            sum[made] += error;
            worst[made] = std::max(worst[made], error);
            ++count[made];
        }
        for (const FollowedPoint& p : report.path)
            motion = std::max(motion, std::hypot(p.at.x - at.x, p.at.y - at.y));
        std::printf("%4.0f,%4.0f moves by up to %5.1f px; left in %2d originals mean %.3f worst %.3f px, in "
                    "%2d made frames mean "
                    "%.3f worst %.3f px%s%s\n",
                    at.x, at.y, motion, count[0], sum[0] / std::max(1, count[0]), worst[0], count[1],
                    sum[1] / std::max(1, count[1]), worst[1], report.lostAfter ? "; lost: " : "",
                    report.whyAfter.c_str());
    }
}

// ---- Calm

struct Shaken {
    double x, y, turn;
};

/// Swings of 0.3 to 6 Hz, the quicker the smaller.
Shaken shakenAt(double seconds, double slowest) {
    static const auto swings = [] {
        std::mt19937 random(3);
        std::normal_distribution<double> normal;
        std::array<std::array<std::array<double, 2>, 20>, 3> out{};
        for (auto& axis : out)
            for (std::size_t n = 0; n < axis.size(); ++n) {
                const double size = 3 / (1 + std::pow(0.3 * static_cast<double>(n + 1) / 1.5, 1.4));
                axis[n] = {size * normal(random), size * normal(random)};
            }
        return out;
    }();
    std::array<double, 3> v{};
    for (std::size_t a = 0; a < 3; ++a)
        for (std::size_t n = 0; n < swings[a].size(); ++n) {
            if (0.3 * static_cast<double>(n + 1) < slowest) continue;
            const double phase = 2 * std::numbers::pi * 0.3 * static_cast<double>(n + 1) * seconds;
            v[a] += swings[a][n][0] * std::sin(phase) + swings[a][n][1] * std::cos(phase);
        }
    return {v[0], v[1], v[2] * 0.002};
}

/// What is quicker than `seconds` of a row of places, mean of the absolute: the rest of a moving mean with
/// the same bell that calming uses, so that a pan counts nothing. The ends are left out.
double quickPart(const std::vector<PicturePoint>& places, double rate, double seconds) {
    // By the discrete Fourier transform: what has a period of `seconds` or less.
    const int n = static_cast<int>(places.size());
    cv::Mat x(1, n, CV_64F);
    cv::Mat y(1, n, CV_64F);
    for (int i = 0; i < n; ++i) {
        const double u = static_cast<double>(i) / (n - 1);
        const double bell = 0.5 - 0.5 * std::cos(2 * std::numbers::pi * u);
        const auto line = [&](double a, double b) { return a + u * (b - a); };
        x.at<double>(i) =
            bell * (places[static_cast<std::size_t>(i)].x - line(places.front().x, places.back().x));
        y.at<double>(i) =
            bell * (places[static_cast<std::size_t>(i)].y - line(places.front().y, places.back().y));
    }
    double power = 0;
    for (const cv::Mat& row : {x, y}) {
        cv::Mat spectrum;
        cv::dft(row, spectrum, cv::DFT_COMPLEX_OUTPUT);
        for (int k = 1; k <= n / 2; ++k) {
            const double frequency = k * rate / n;
            if (frequency < 1 / seconds) continue;
            const auto& c = spectrum.at<cv::Vec2d>(k);
            power += c[0] * c[0] + c[1] * c[1];
        }
    }
    return std::sqrt(2 * power) / n;
}

void calm(const char* clip) {
    const cv::Mat still = stillOf(clip, 2 * drawnWidth, 2 * drawnHeight);
    constexpr double rate = 24;
    constexpr int count = 120;
    for (const double share : {0.0, 0.1, 0.25}) // of the picture that something before it covers
        for (const double seconds : {0.5, 1.0, 2.0}) {
            // A pan, and shakes no slower than what is to be calmed.
            const auto shaken = [&](int n) {
                Shaken s = shakenAt(n / rate, 1 / seconds);
                s.x += 0.7 * n;
                return s;
            };
            std::vector<ImagePtr> frames;
            for (int n = 0; n < count; ++n) {
                const Shaken s = shaken(n);
                const double re = std::cos(s.turn);
                const double im = std::sin(s.turn);
                const double cx = drawnWidth / 2.0 - 0.5;
                const double cy = drawnHeight / 2.0 - 0.5;
                cv::Mat seen = readAt(still,
                                      cv::Matx23d(re, im, 640 - re * (cx + s.x) - im * (cy + s.y), -im, re,
                                                  360 + im * (cx + s.x) - re * (cy + s.y)),
                                      {drawnWidth, drawnHeight});
                if (share > 0) { // a piece that goes its own way
                    const int side = static_cast<int>(std::sqrt(share * drawnWidth * drawnHeight));
                    const int left = 40 + 2 * n;
                    const int wide = std::min(side, drawnWidth - left);
                    still(cv::Rect(50, 300, wide, std::min(side, 320)))
                        .copyTo(seen(cv::Rect(left, 20, wide, std::min(side, 320))));
                }
                frames.push_back(pictureOf(seen, 2, static_cast<std::uint64_t>(n)));
            }
            Listed source(frames, Rate(24, 1));
            Calm settings{.by = CalmBy::smoothing, .seconds = seconds};
            settings.path = measuredCamera(source, nullptr, 0, count - 1, {});
            const CalmedCamera camera(settings, drawnWidth, drawnHeight, 1, rate);
            double was = 0;
            double is = 0;
            double ends = 0;
            // Where the middle of the scene really is, less the pan.
            for (int n = 0; n < count; ++n) {
                const Shaken s = shaken(n);
                const PicturePoint at{drawnWidth / 2.0 + s.x, drawnHeight / 2.0 + s.y};
                const PicturePoint after = camera.at(placeOfFrame(n))(at);
                const double x = after.x - drawnWidth / 2.0 - 0.7 * n;
                const double y = after.y - drawnHeight / 2.0;
                const bool isEnd = n < seconds * rate / 2 || n >= count - seconds * rate / 2;
                if (isEnd) {
                    ends += x * x + y * y;
                    continue;
                }
                was += (s.x - 0.7 * n) * (s.x - 0.7 * n) + s.y * s.y;
                is += x * x + y * y;
            }
            const double inner = count - std::floor(seconds * rate);
            std::printf("%2.0f %% covered, over %.1f s: shake %.2f px, left %.3f px (%.1f %% taken away), "
                        "near the ends %.2f px\n",
                        100 * share, seconds, std::sqrt(was / inner), std::sqrt(is / inner),
                        100 * (1 - std::sqrt(is / was)), std::sqrt(ends / (count - inner)));
        }
}

void path(const char* clip) {
    const auto source = sourceOf(clip);
    const std::int64_t last = std::min<std::int64_t>(source->frames() - 1, 120);
    Calm settings{.by = CalmBy::smoothing, .seconds = 1};
    const double took = secondsOf([&] { settings.path = measuredCamera(*source, nullptr, 0, last, {}); });
    const MediaFacts& facts = source->facts();
    // Measured again in the calmed frames themselves.
    Finish finish;
    finish.calm = settings;
    const FinishGeometry geometry(finish, facts);
    std::vector<ImagePtr> calmed;
    for (std::int64_t n = 0; n <= last; ++n)
        calmed.push_back(std::make_shared<const Image>(
            readThrough(*source->frame(n), geometry.at({Rational(n), placeOfFrame(n)}), facts.width,
                        facts.height, facts.colour)));
    Listed again(calmed, facts.rate);
    const CameraPath left = measuredCamera(again, nullptr, 0, last, {});
    const auto places = [&](const CameraPath& of) {
        std::vector<PicturePoint> out;
        for (const CameraPoint& p : of)
            out.push_back({p.x, p.y});
        return out;
    };
    const double was = quickPart(places(settings.path), facts.rate.toDouble(), 1);
    const double is = quickPart(places(left), facts.rate.toDouble(), 1);
    std::printf("quick shake %.3f px; measured again in the calmed frames %.3f px (%.1f %% taken away); %.1f "
                "ms a frame\n",
                was, is, 100 * (1 - is / was), 1000 * took / static_cast<double>(last + 1));
}

} // namespace

int main(int argc, char** argv) {
    silenceMediaLibraries();
    const std::string what = argc > 1 ? argv[1] : "";
    try {
        if (what == "follow" && argc > 2)
            follow(argv[2]);
        else if (what == "hold" && argc > 2)
            hold(argv[2]);
        else if (what == "calm" && argc > 2)
            calm(argv[2]);
        else if (what == "path" && argc > 2)
            path(argv[2]);
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
