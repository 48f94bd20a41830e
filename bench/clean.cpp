// How well repeats, holds of a figure, and damage are found, and what restoring is worth.
//
//     bench_clean holds [CASES]       drawn shots on ones, twos, threes, mixed, and with single repeats,
//     under
//                                     four cameras, with and without grain, at three qualities of H.264
//     bench_clean alarms CLIP…        what is found in clips in which nothing is wrong
//     bench_clean fox                 the demo's fox on twos at 25 %, against the fox drawn in every moment
//     bench_clean damage CLIP…        scratches, dust, dropouts, torn lines and grey frames drawn into clips:
//                                     precision and recall of places, PSNR inside them before and after
//     bench_clean scratches CLIP…     a scratch that wanders through all frames, likewise
//
// The truth is known: it is drawn here. Certainty as usual.

#include "core/cleaning/found_decisions.h"
#include "core/error.h"
#include "core/inspection/shot_findings.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/shot/ready_shot.h"
#include "theatre/exposure.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <QProcess>
#include <QTemporaryDir>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <map>
#include <numbers>
#include <random>
#include <set>
#include <stdexcept>
#include <string>
#include <vector>

using namespace yarngap;

namespace {

constexpr int width = 480;
constexpr int height = 270;
constexpr int frames = 60;

/// Grey frames of `size` as a file of H.264, or of FFV1 for quality 0.
void encode(const std::vector<cv::Mat>& pictures, const std::string& file, int crf) {
    QProcess ffmpeg;
    QStringList arguments{QStringLiteral("-v"),
                          QStringLiteral("error"),
                          QStringLiteral("-y"),
                          QStringLiteral("-f"),
                          QStringLiteral("rawvideo"),
                          QStringLiteral("-pix_fmt"),
                          QStringLiteral("gray"),
                          QStringLiteral("-s"),
                          QStringLiteral("%1x%2").arg(pictures[0].cols).arg(pictures[0].rows),
                          QStringLiteral("-r"),
                          QStringLiteral("24"),
                          QStringLiteral("-i"),
                          QStringLiteral("-")};
    if (crf > 0)
        arguments << QStringLiteral("-c:v") << QStringLiteral("libx264") << QStringLiteral("-crf")
                  << QString::number(crf) << QStringLiteral("-pix_fmt") << QStringLiteral("yuv420p");
    else
        arguments << QStringLiteral("-c:v") << QStringLiteral("ffv1");
    ffmpeg.start(QStringLiteral("ffmpeg"), arguments << QString::fromStdString(file));
    for (const cv::Mat& picture : pictures)
        for (int y = 0; y < picture.rows; ++y)
            ffmpeg.write(picture.ptr<char>(y), picture.cols);
    ffmpeg.closeWriteChannel();
    if (!ffmpeg.waitForFinished(-1) || ffmpeg.exitCode() != 0)
        throw std::runtime_error("ffmpeg: " + ffmpeg.readAllStandardError().toStdString());
}

// ---- Drawn shots

enum class Pattern { ones, twos, threes, mixed, single };
enum class Camera { still, pan, zoom, shake };

struct Case {
    Pattern pattern;
    Camera camera;
    bool large, grain, figureOnly;
    int crf;
};

/// Paper with soft spots of all sizes, larger than the picture.
cv::Mat background() {
    std::mt19937 random(3);
    cv::Mat out = cv::Mat::zeros(3 * height, 3 * width, CV_32F);
    for (const int size : {2, 5, 12, 40}) {
        cv::Mat noise(out.rows / size + 1, out.cols / size + 1, CV_32F);
        cv::theRNG().state = random();
        cv::randn(noise, 0, 6.0 + size * 0.4);
        cv::Mat large;
        cv::resize(noise, large, out.size(), 0, 0, cv::INTER_CUBIC);
        out += large;
    }
    return out + 130;
}

/// Where the camera looks in frame n: place and size of the part of the background that is seen.
cv::Matx23f cameraAt(Camera camera, double n) {
    double x = width;
    double y = height;
    double scale = 1;
    switch (camera) {
    case Camera::still:
        break;
    case Camera::pan:
        x += 2.7 * n;
        y += 0.4 * n;
        break;
    case Camera::zoom:
        scale = 1 + 0.006 * n;
        break;
    case Camera::shake:
        x += 3 * std::sin(1.9 * n) + 2 * std::sin(0.7 * n + 1);
        y += 2 * std::sin(1.3 * n + 2) + 2 * std::sin(2.3 * n);
        break;
    }
    const auto s = static_cast<float>(1 / scale);
    return {s, 0, static_cast<float>(x + (1 - 1 / scale) * width / 2), //
            0, s, static_cast<float>(y + (1 - 1 / scale) * height / 2)};
}

/// A figure that walks and swings its limbs, on the background, as drawn at moment t.
void drawFigure(cv::Mat& scene, double t, bool large) {
    const double size = large ? 90 : 16;
    const double cx = width * 1.35 + 1.8 * t;
    const double cy = height * 1.5 + 6 * std::sin(0.35 * t);
    const auto at = [&](double x, double y) {
        return cv::Point(static_cast<int>(std::lround((cx + x * size) * 16)),
                         static_cast<int>(std::lround((cy + y * size) * 16)));
    };
    const auto limb = [&](double x, double y, double angle, double length, double grey) {
        cv::line(scene, at(x, y), at(x + length * std::sin(angle), y + length * std::cos(angle)), grey,
                 std::max(2, static_cast<int>(size / 7)), cv::LINE_AA, 4);
    };
    cv::ellipse(scene, at(0, 0), {static_cast<int>(size * 0.35 * 16), static_cast<int>(size * 0.55 * 16)},
                10 * std::sin(0.3 * t), 0, 360, 60, cv::FILLED, cv::LINE_AA, 4);
    cv::circle(scene, at(0.1, -0.75), static_cast<int>(size * 0.25 * 16), 215, cv::FILLED, cv::LINE_AA, 4);
    limb(0, 0.4, 0.7 * std::sin(0.5 * t), 0.8, 40);
    limb(0, 0.4, -0.7 * std::sin(0.5 * t), 0.8, 80);
    limb(0, -0.3, 0.9 * std::cos(0.5 * t), 0.7, 230);
}

/// The moment drawn in each frame, and which frames repeat.
std::vector<int> drawings(Pattern pattern) {
    std::mt19937 random(11);
    std::vector<int> moments;
    int hold = 0;
    int moment = 0;
    for (int n = 0; n < frames; ++n) {
        if (hold == 0) {
            moment = n;
            switch (pattern) {
            case Pattern::ones:
                hold = 1;
                break;
            case Pattern::twos:
                hold = 2;
                break;
            case Pattern::threes:
                hold = 3;
                break;
            case Pattern::mixed:
                hold = std::array{1, 2, 2, 3, 2, 4}[random() % 6];
                break;
            case Pattern::single:
                hold = random() % 9 == 0 && n > 2 ? 2 : 1;
                break;
            }
        }
        moments.push_back(moment);
        --hold;
    }
    return moments;
}

std::vector<cv::Mat> drawn(const Case& c) {
    static const cv::Mat paper = background();
    const std::vector<int> moments = drawings(c.pattern);
    std::vector<cv::Mat> pictures;
    for (int n = 0; n < frames; ++n) {
        const int moment = moments[static_cast<std::size_t>(n)];
        cv::Mat scene = paper.clone();
        drawFigure(scene, moment, c.large);
        cv::Mat picture;
        cv::warpAffine(scene, picture, cameraAt(c.camera, c.figureOnly ? n : moment), {width, height},
                       cv::INTER_CUBIC | cv::WARP_INVERSE_MAP);
        if (c.grain) {
            cv::Mat grain(picture.size(), CV_32F);
            cv::randn(grain, 0, 4);
            picture += grain;
        }
        cv::Mat bytes;
        picture.convertTo(bytes, CV_8U);
        pictures.push_back(bytes);
    }
    return pictures;
}

struct Score {
    int right = 0, wrong = 0, missed = 0;
    void add(const Score& s) {
        right += s.right;
        wrong += s.wrong;
        missed += s.missed;
    }
    [[nodiscard]] std::string text() const {
        std::array<char, 96> line{};
        const auto share = [](int a, int b) { return a + b == 0 ? 100.0 : 100.0 * a / (a + b); };
        std::snprintf(line.data(), line.size(), "%7.2f %% %7.2f %%  (%d right, %d wrong, %d missed)",
                      share(right, wrong), share(right, missed), right, wrong, missed);
        return line.data();
    }
};

Score scored(const Case& c, const std::string& folder, bool tell) {
    const std::string file = folder + "/case.mkv";
    encode(drawn(c), file, c.crf);
    const auto index = std::make_shared<MediaIndex>(buildIndex(file));
    const ShotFindings findings = inspectShot(index);
    const std::vector<int> moments = drawings(c.pattern);
    std::set<std::int64_t> found;
    const auto decisions = foundDecisions(findings, recipesFor(*index, {}),
                                          {.lookAt = c.figureOnly ? LookAt::figure : LookAt::picture});
    Score score;
    for (const CleanupDecision& d : decisions) {
        if (d.kind == CleanupKind::passOver)
            found.insert(d.frame);
        else
            ++score.wrong; // nothing else is wrong with these
    }
    std::string which;
    for (std::size_t n = 1; n < moments.size(); ++n) {
        const bool repeats = moments[n] == moments[n - 1];
        const bool isFound = found.contains(static_cast<std::int64_t>(n));
        score.right += repeats && isFound ? 1 : 0;
        score.wrong += !repeats && isFound ? 1 : 0;
        score.missed += repeats && !isFound ? 1 : 0;
        if (repeats != isFound) which += ' ' + std::to_string(n);
    }
    if (tell && score.wrong + score.missed > 0)
        std::fprintf(stderr, "pattern %d camera %d %s %s %s crf %d: %d wrong, %d missed:%s\n",
                     static_cast<int>(c.pattern), static_cast<int>(c.camera), c.large ? "large" : "small",
                     c.grain ? "grain" : "clean", c.figureOnly ? "figure" : "whole", c.crf, score.wrong,
                     score.missed, which.c_str());
    return score;
}

void holds(int most) {
    const QTemporaryDir folder;
    std::map<std::string, Score> table;
    int done = 0;
    std::vector<Case> cases;
    for (const bool figureOnly : {false, true})
        for (const Pattern pattern :
             {Pattern::ones, Pattern::twos, Pattern::threes, Pattern::mixed, Pattern::single})
            for (const Camera camera : {Camera::still, Camera::pan, Camera::zoom, Camera::shake})
                for (const int crf : {18, 26, 35})
                    for (const bool grain : {false, true})
                        for (const bool large : {true, false}) {
                            if (figureOnly && camera == Camera::still) continue; // the same as the whole
                            cases.push_back({pattern, camera, large, grain, figureOnly, crf});
                        }
    std::shuffle(cases.begin(), cases.end(), std::mt19937(1));
    constexpr std::array patterns{"ones", "twos", "threes", "mixed", "single repeats"};
    constexpr std::array cameras{"still", "pan", "zoom", "shake"};
    for (const Case& c : cases) {
        if (done++ == most) break;
        const Score score = scored(c, folder.path().toStdString(), true);
        const std::string of = c.figureOnly ? "figure, " : "whole picture, ";
        for (const std::string& row :
             {of + "all", of + patterns.at(static_cast<std::size_t>(c.pattern)),
              of + "camera " + cameras.at(static_cast<std::size_t>(c.camera)),
              of + "crf " + std::to_string(c.crf), of + (c.grain ? "grain" : "no grain"),
              of + (c.large ? "large figure" : "small figure")})
            table[row].add(score);
    }
    std::printf("%-32s %9s %9s\n", "drawn shots", "precision", "recall");
    for (const auto& [row, score] : table)
        std::printf("%-32s %s\n", row.c_str(), score.text().c_str());
}

void alarms(const std::vector<std::string>& clips) {
    for (const std::string& clip : clips) {
        const auto index = std::make_shared<MediaIndex>(buildIndex(clip));
        const ShotFindings findings = inspectShot(index);
        std::map<std::string, int> counts;
        for (const LookAt lookAt : {LookAt::picture, LookAt::figure})
            for (const CleanupDecision& d :
                 foundDecisions(findings, recipesFor(*index, {}), {.lookAt = lookAt}))
                ++counts[std::string(name(d.kind)) + " (" + std::string(name(lookAt)) + ")"];
        std::printf("%s, %lld frames:", clip.c_str(), static_cast<long long>(index->frames()));
        for (const auto& [kind, count] : counts)
            std::printf(" %s %d", kind.c_str(), count);
        std::printf("%s\n", counts.empty() ? " nothing" : "");
    }
}

// ---- Damage drawn into clips

struct Drawn {
    int frame;
    bool whole;
    cv::Rect place;
};

std::vector<cv::Mat> lumaOf(const std::string& clip, int most) {
    FrameSource source(std::make_shared<MediaIndex>(buildIndex(clip)));
    std::vector<cv::Mat> pictures;
    for (std::int64_t n = 0; n < std::min<std::int64_t>(most, source.frames()); ++n) {
        const ImagePtr frame = source.frame(n);
        cv::Mat picture(frame->height(), frame->width(), CV_8U);
        const int shift = frame->layout().depth - 8;
        for (int y = 0; y < frame->height(); ++y)
            for (int x = 0; x < frame->width(); ++x)
                picture.at<std::uint8_t>(y, x) =
                    shift == 0 ? frame->row<std::uint8_t>(0, y)[static_cast<std::size_t>(x)]
                               : static_cast<std::uint8_t>(
                                     frame->row<std::uint16_t>(0, y)[static_cast<std::size_t>(x)] >> shift);
        pictures.push_back(picture);
    }
    return pictures;
}

/// Damages a frame in one of five ways; what was drawn.
Drawn damage(cv::Mat& picture, int n, int kind, std::mt19937& random) {
    const int w = picture.cols;
    const int h = picture.rows;
    const auto upTo = [&](int limit) { return static_cast<int>(random() % static_cast<unsigned>(limit)); };
    switch (kind) {
    case 0: { // dust
        const cv::Point at(20 + upTo(w - 40), 20 + upTo(h - 40));
        const int r = std::max(2, w / 240 + upTo(3));
        cv::ellipse(picture, at, {r, r + upTo(3)}, upTo(180), 0, 360, random() % 2 ? 245 : 8, cv::FILLED,
                    cv::LINE_AA);
        return {n, false, {at.x - r - 2, at.y - r - 2, 2 * r + 5, 2 * r + 5}};
    }
    case 1: { // scratch of one frame
        const int x = 20 + upTo(w - 40);
        const int thick = std::max(1, w / 640);
        cv::line(picture, {x, 0}, {x + upTo(3), h - 1}, 235, thick, cv::LINE_AA);
        return {n, false, {x - 2, 0, 6 + thick, h}};
    }
    case 2: { // dropout
        const int y = upTo(h - 12);
        const int x = upTo(w / 2);
        const cv::Rect place(x, y, w / 3 + upTo(w / 6), 2 + upTo(4));
        picture(place).setTo(random() % 2 ? 250 : 128);
        return {n, false, place};
    }
    case 3: { // torn lines
        const cv::Rect place(0, upTo(h - h / 8), w, h / 16 + upTo(h / 16));
        const cv::Mat lines = picture(place).clone();
        const int by = w / 16 + upTo(w / 16);
        lines.colRange(0, w - by).copyTo(picture(place).colRange(by, w));
        lines.colRange(w - by, w).copyTo(picture(place).colRange(0, by));
        return {n, false, place};
    }
    default:
        picture.setTo(128);
        return {n, true, {0, 0, w, h}};
    }
}

double psnr(const cv::Mat& a, const cv::Mat& b, const cv::Rect& place) {
    cv::Mat difference;
    cv::absdiff(a(place), b(place), difference);
    difference.convertTo(difference, CV_32F);
    const double mse = cv::mean(difference.mul(difference))[0];
    return 10 * std::log10(255.0 * 255.0 / std::max(mse, 0.02));
}

ImagePtr frameOf(const Footage& footage, int n) {
    return footage.frames->frame(*footage.axis->frameOf(n));
}

cv::Mat greyOf(const Image& image) {
    cv::Mat out(image.height(), image.width(), CV_8U);
    for (int y = 0; y < image.height(); ++y)
        std::copy_n(image.row<std::uint8_t>(0, y).data(), image.width(), out.ptr(y));
    return out;
}

/// A scratch that wanders over all frames of a clip.
void scratches(const std::vector<std::string>& clips) {
    const QTemporaryDir folder;
    for (const std::string& clip : clips) {
        const std::vector<cv::Mat> clean = lumaOf(clip, 48);
        std::vector<cv::Mat> bad;
        std::vector<double> columns;
        for (std::size_t n = 0; n < clean.size(); ++n) {
            bad.push_back(clean[n].clone());
            const double w = clean[n].cols;
            columns.push_back(0.4 * w + 0.012 * w * std::sin(0.21 * static_cast<double>(n)));
            const auto fixed = [](double v) { return static_cast<int>(std::lround(v * 16)); };
            cv::Mat line = bad.back().clone();
            cv::line(line, {fixed(columns[n]), 0}, {fixed(columns[n] + w / 200), fixed(clean[n].rows - 1)},
                     238, std::max(1, clean[n].cols / 700), cv::LINE_AA, 4);
            cv::addWeighted(line, 0.6, bad.back(), 0.4, 0, bad.back());
        }
        const std::string file = folder.path().toStdString() + "/scratched.mkv";
        encode(bad, file, 0);
        const auto index = std::make_shared<MediaIndex>(buildIndex(file));
        const ShotFindings findings = inspectShot(index);
        const Cleanup cleanup{foundDecisions(findings, recipesFor(*index, {}))};
        const auto means = CleaningMeans{.cuts = SourceAxis(*index, {}).interpretedFindings(findings).cuts};
        const Footage footage = footageOf(index, Interpretation{}, std::size_t{256} << 20, cleanup, means);
        double before = 0;
        double after = 0;
        int found = 0;
        int worse = 0;
        for (std::size_t n = 0; n < clean.size(); ++n) {
            const CleanupDecision* decision = cleanup.about(static_cast<std::int64_t>(n));
            if (!decision || decision->kind != CleanupKind::restore) continue;
            ++found;
            const cv::Mat made = greyOf(*frameOf(footage, static_cast<int>(n)));
            const cv::Rect place(static_cast<int>(columns[n]) - 4, 0, clean[n].cols / 200 + 8, clean[n].rows);
            const double was = psnr(bad[n], clean[n], place);
            const double is = psnr(made, clean[n], place);
            before += was;
            after += is;
            if (is < was) ++worse;
        }
        std::printf("%s: found in %d of %zu frames, inside it %.1f dB before, %.1f dB after, %d worse\n",
                    clip.c_str(), found, clean.size(), before / std::max(1, found),
                    after / std::max(1, found), worse);
    }
}

void damages(const std::vector<std::string>& clips) {
    constexpr std::array kinds{"dust", "scratch", "dropout", "torn lines", "grey frame"};
    const QTemporaryDir folder;
    for (const std::string& clip : clips) {
        const std::vector<cv::Mat> clean = lumaOf(clip, 120);
        std::vector<cv::Mat> bad;
        bad.reserve(clean.size());
        for (const cv::Mat& picture : clean)
            bad.push_back(picture.clone());
        std::mt19937 random(5);
        std::vector<std::pair<int, Drawn>> drawnInto;
        int kind = 0;
        for (int n = 4; n + 4 < static_cast<int>(bad.size()); n += 7, ++kind)
            drawnInto.emplace_back(kind % 5, damage(bad[static_cast<std::size_t>(n)], n, kind % 5, random));
        const std::string file = folder.path().toStdString() + "/damaged.mkv";
        encode(bad, file, 0);
        const auto index = std::make_shared<MediaIndex>(buildIndex(file));
        const ShotFindings findings = inspectShot(index);
        const Cleanup cleanup{foundDecisions(findings, recipesFor(*index, {}))};
        const auto means = CleaningMeans{.cuts = SourceAxis(*index, {}).interpretedFindings(findings).cuts};
        const Footage footage = footageOf(index, Interpretation{}, std::size_t{256} << 20, cleanup, means);
        struct Sum {
            int drawn = 0, found = 0;
            double before = 0, after = 0;
        };
        std::array<Sum, 5> sums;
        int wrong = 0;
        int worse = 0;
        for (const auto& [k, d] : drawnInto) {
            Sum& sum = sums.at(static_cast<std::size_t>(k));
            ++sum.drawn;
            const CleanupDecision* decision = cleanup.about(d.frame);
            const bool found =
                decision &&
                (decision->kind == CleanupKind::rebuild ||
                 std::any_of(decision->places.begin(), decision->places.end(),
                             [&, place = d.place](const DamagedPlace& p) {
                                 return (cv::Rect(p.x, p.y, p.width, p.height) & place).area() > 0;
                             }));
            if (!found) continue;
            ++sum.found;
            const cv::Mat picture = greyOf(*frameOf(footage, d.frame));
            const auto f = static_cast<std::size_t>(d.frame);
            const double before = psnr(bad[f], clean[f], d.place);
            const double after = psnr(picture, clean[f], d.place);
            sum.before += before;
            sum.after += after;
            if (after < before) ++worse;
        }
        for (const CleanupDecision& d : cleanup.decisions) {
            const auto at = std::find_if(drawnInto.begin(), drawnInto.end(),
                                         [&](const auto& entry) { return entry.second.frame == d.frame; });
            if (d.kind == CleanupKind::putIn || d.kind == CleanupKind::passOver || at == drawnInto.end()) {
                ++wrong;
                continue;
            }
            for (const DamagedPlace& p : d.places)
                if ((cv::Rect(p.x, p.y, p.width, p.height) & at->second.place).area() == 0) ++wrong;
        }
        std::printf("%s, %zu frames: %d false places or frames, %d made worse\n", clip.c_str(), bad.size(),
                    wrong, worse);
        for (std::size_t k = 0; k < kinds.size(); ++k) {
            const Sum& s = sums.at(k);
            std::printf("  %-11s %d of %d found", kinds.at(k), s.found, s.drawn);
            if (s.found > 0)
                std::printf(", inside them %.1f dB before, %.1f dB after", s.before / s.found,
                            s.after / s.found);
            std::printf("\n");
        }
    }
}

// ---- The fox, slowed

struct Way {
    const char* name;
    Method method;
    bool passedOver;
};

void fox() {
    constexpr int count = 60;
    theatre::Camera camera{.width = 960, .height = 540, .rate = Rate(24, 1), .shutterSeconds = 1.0 / 96};
    camera.grain = 0;
    const QTemporaryDir folder;
    const std::string file = folder.path().toStdString() + "/fox.mkv";
    const auto held = theatre::foxOnTwos(960, 540);
    const auto writer = openWriter({.target = file,
                                    .rate = camera.rate,
                                    .width = camera.width,
                                    .height = camera.height,
                                    .layout = theatre::expose(*held, camera, 0).layout()});
    for (int n = 0; n < count; ++n)
        writer->write(theatre::expose(*held, camera, n));
    writer->finish();
    const auto index = std::make_shared<MediaIndex>(buildIndex(file));
    const ShotFindings findings = inspectShot(index);
    const Cleanup cleanup{foundDecisions(findings, recipesFor(*index, {}), {.lookAt = LookAt::figure})};
    std::printf("fox on twos, %d frames at 25 %%: %s\n", count, summary(cleanup).c_str());
    camera.rate = Rate(96, 1);
    const auto truth = theatre::foxOnOnes(960, 540);
    for (const Way& way : {Way{"sampling", Method::sample, false}, Way{"blending", Method::blend, false},
                           Way{"flow", Method::flow, false}, Way{"flow, passed over", Method::flow, true}}) {
        Shot shot = shotOf(file);
        shot.speed = Rational(1, 4);
        shot.method = way.method;
        if (way.passedOver) shot.cleanup = cleanup;
        const Footage footage = footageOf(index, Interpretation{}, std::size_t{256} << 20, shot.cleanup);
        const ReadyShot ready = readyShot(shot, footage, footage.axis->findings(findings),
                                          {.vectors = std::make_shared<VectorStore>()});
        std::vector<double> all;
        std::vector<double> changes;
        cv::Mat before;
        for (int n = 0; n < 4 * (count - 2); ++n) {
            const cv::Mat made = greyOf(*ready.frames->make(n).image);
            all.push_back(psnr(made, greyOf(theatre::expose(*truth, camera, n)), {0, 0, 960, 540}));
            if (!before.empty()) {
                cv::Mat change;
                cv::absdiff(made, before, change);
                changes.push_back(cv::mean(change)[0]);
            }
            before = made;
        }
        std::sort(all.begin(), all.end());
        const auto tenth = all.size() / 10;
        double sum = 0;
        double worst = 0;
        for (std::size_t i = 0; i < all.size(); ++i) {
            sum += all[i];
            if (i < tenth) worst += all[i];
        }
        cv::Scalar mean;
        cv::Scalar deviation;
        cv::meanStdDev(changes, mean, deviation);
        std::printf("  %-18s %.2f / %.2f dB, change from frame to frame %.2f ± %.2f steps\n", way.name,
                    sum / static_cast<double>(all.size()), worst / static_cast<double>(tenth), mean[0],
                    deviation[0]);
    }
}

} // namespace

int main(int argc, char** argv) {
    silenceMediaLibraries();
    const std::vector<std::string> words(argv + 1, argv + argc);
    const std::vector<std::string> clips(words.empty() ? words.end() : words.begin() + 1, words.end());
    try {
        if (!words.empty() && words[0] == "holds")
            holds(clips.empty() ? -1 : std::stoi(clips[0]));
        else if (!words.empty() && words[0] == "fox")
            fox();
        else if (!clips.empty() && words[0] == "alarms")
            alarms(clips);
        else if (!clips.empty() && words[0] == "damage")
            damages(clips);
        else if (!clips.empty() && words[0] == "scratches")
            scratches(clips);
        else
            std::cerr << "bench_clean holds [CASES] | alarms CLIP… | damage CLIP… | scratches CLIP… | fox\n";
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
