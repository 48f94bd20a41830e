// A hand-held camera inside gaps: its motion and blur from frame to frame, and the speeds they tell.

#include "core/inspection/camera_shake.h"
#include "core/media/media_index.h"
#include "core/project/project.h"
#include "core/shot/source_axis.h"
#include "core/synthesis/bent_path.h"
#include "core/synthesis/frame_maker.h"
#include "support/clips.h"
#include "support/drawn_shot.h"
#include "support/pictures.h"

#include <QFile>
#include <QTest>

#include <cmath>
#include <complex>
#include <numbers>
#include <random>
#include <vector>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 160;
constexpr int height = 120;
constexpr int frames = 22;

struct Place {
    double x = 0, y = 0;
};

/// Where the picture of a hand-held camera stands; time in frames.
Place shaken(double t) {
    return {2.6 * std::sin(1.3 * t) + 1.1 * std::sin(2.1 * t + 1), 2.2 * std::sin(1.7 * t + 2)};
}

/// Its speed, worked out by hand.
Place speedOf(double t) {
    return {2.6 * 1.3 * std::cos(1.3 * t) + 1.1 * 2.1 * std::cos(2.1 * t + 1),
            2.2 * 1.7 * std::cos(1.7 * t + 2)};
}

/// One of the waves that the wall is drawn with.
struct Wave {
    double kx = 0, ky = 0;
    std::complex<double> strength;
};

/// From 7 to 150 pixels long, in all directions, the longer the stronger.
std::vector<Wave> wall() {
    std::vector<Wave> waves;
    constexpr int count = 20;
    for (int n = 0; n < count; ++n) {
        const double length = 7 * std::pow(150.0 / 7, n / (count - 1.0));
        const double angle = 2.399963 * n; // radians, the golden angle
        const double k = 2 * std::numbers::pi / length;
        waves.push_back(
            {k * std::cos(angle), k * std::sin(angle), std::polar(1.7 * std::pow(length / 7, 0.6), 1.7 * n)});
    }
    return waves;
}

Image drawn(const std::vector<Wave>& waves, int w, int h) {
    return pictureOf(w, h, {.model = ColourModel::grey, .depth = 16}, [&](int, int x, int y) {
        double sum = 120;
        for (const Wave& wave : waves)
            sum += std::abs(wave.strength) * std::sin(wave.kx * x + wave.ky * y + std::arg(wave.strength));
        return 257 * sum;
    });
}

/// The wall seen at `t` for `exposure` frames, by a camera that moves along `path`: each wave is the mean of
/// those at all moments.
template <typename Path>
Image exposed(double t, double exposure, const Path& path, int w = width, int h = height) {
    constexpr int moments = 12;
    std::vector<Wave> waves = wall();
    for (Wave& wave : waves) {
        std::complex<double> mean = 0;
        for (int m = 0; m < moments; ++m) {
            const Place p = path(t + exposure * ((m + 0.5) / moments - 0.5));
            mean += std::polar(1.0 / moments, -(wave.kx * p.x + wave.ky * p.y));
        }
        wave.strength *= mean;
    }
    return drawn(waves, w, h);
}

/// Frames of the shaken camera, exposed for half the time.
const std::vector<ImagePtr>& shakenFrames() {
    static const std::vector<ImagePtr> all = [] {
        std::vector<ImagePtr> made;
        made.reserve(frames);
        for (int n = 0; n < frames; ++n)
            made.push_back(std::make_shared<Image>(exposed(n, 0.5, shaken)));
        return made;
    }();
    return all;
}

std::vector<CameraStep> shakenSteps() {
    CameraMeter meter;
    for (const ImagePtr& frame : shakenFrames())
        meter.measure(frame.get());
    return meter.steps();
}

template <typename Path>
std::vector<CameraStep> stepsAlong(const Path& path, double exposure) {
    CameraMeter meter;
    for (int n = 0; n < frames; ++n) {
        const Image frame = exposed(n, exposure, path);
        meter.measure(&frame);
    }
    return meter.steps();
}

/// Steps of a long shot by the same camera, exposed for half the time, whose blur is measured with errors of
/// up to `noise` square pixels.
std::vector<CameraStep> stepsWithBlurNoise(double noise) {
    constexpr int many = 300;
    constexpr double growth = 0.5 * 0.5 / 12;
    std::mt19937 random(7);
    std::uniform_real_distribution<double> error(-noise, noise);
    std::vector<CameraStep> steps;
    for (int n = 0; n < many; ++n) {
        const Place a = shaken(n);
        const Place b = shaken(n + 1);
        const Place v = speedOf(n);
        const Place w = speedOf(n + 1);
        CameraStep step{.known = true, .x = b.x - a.x, .y = b.y - a.y};
        step.blur = {growth * (w.x * w.x - v.x * v.x) + error(random),
                     growth * (w.x * w.y - v.x * v.y) + error(random),
                     growth * (w.y * w.y - v.y * v.y) + error(random)};
        step.blurKnown = true;
        steps.push_back(step);
    }
    return steps;
}

double toldOnAverage(const CameraShake& shake) {
    double sum = 0;
    for (const Shake& gap : shake.gaps)
        sum += static_cast<double>(gap.told);
    return sum / static_cast<double>(shake.gaps.size());
}

CameraStep stepBetween(const Image& a, const Image& b) {
    return cameraStep(*cameraPicture(a), *cameraPicture(b));
}

CameraStep blurBetween(const Image& a, const Image& b) {
    CameraStep step = stepBetween(a, b);
    measureBlur(step, *cameraPicture(a), *cameraPicture(b));
    return step;
}

} // namespace

class TestCameraShake : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void aStepIsWhereThePictureGoes_data() {
        QTest::addColumn<int>("w");
        QTest::addColumn<int>("h");
        QTest::addColumn<double>("x");
        QTest::addColumn<double>("y");
        QTest::addColumn<double>("within");
        QTest::newRow("still") << 160 << 120 << 0.0 << 0.0 << 0.001;
        QTest::newRow("less than a pixel") << 160 << 120 << 0.3 << -0.7 << 0.06;
        QTest::newRow("far") << 160 << 120 << -9.4 << 6.2 << 0.06;
        QTest::newRow("large, at half its size") << 400 << 330 << 7.25 << 3.5 << 0.15;
        QTest::newRow("odd and narrow") << 61 << 201 << 2.5 << -1.25 << 0.06;
    }
    void aStepIsWhereThePictureGoes() {
        QFETCH(int, w);
        QFETCH(int, h);
        QFETCH(double, x);
        QFETCH(double, y);
        const auto path = [=](double t) { return Place{x * t, y * t}; };
        const CameraStep step = stepBetween(exposed(0, 0, path, w, h), exposed(1, 0, path, w, h));
        QVERIFY(step.known);
        QVERIFY(!step.blurKnown);
        QFETCH(double, within);
        QVERIFY2(std::hypot(step.x - x, step.y - y) < within,
                 qPrintable(QStringLiteral("%1 %2").arg(step.x).arg(step.y)));
        const CameraStep twice = step.scaled(2);
        QCOMPARE(twice.x, 2 * step.x);
    }

    void aTurnIsTold() {
        constexpr double turn = 0.02; // radians, about the middle
        const auto draw = [&](double angle) {
            std::vector<Wave> waves = wall();
            const std::complex<double> turned = std::polar(1.0, angle);
            for (Wave& wave : waves) {
                const std::complex<double> k = std::complex(wave.kx, wave.ky) * turned;
                // about the middle of the picture
                const double phase =
                    (wave.kx - k.real()) * (width - 1) / 2 + (wave.ky - k.imag()) * (height - 1) / 2;
                wave = {k.real(), k.imag(), wave.strength * std::polar(1.0, phase)};
            }
            return drawn(waves, width, height);
        };
        const CameraStep step = stepBetween(draw(0), draw(turn));
        QVERIFY(step.known);
        QVERIFY(std::hypot(step.x, step.y) < 0.05);
        QVERIFY(std::abs(step.across[1] + turn) < 0.001 && std::abs(step.across[2] - turn) < 0.001);
    }

    void blurGrowsWithTheSquareOfSpeed() {
        // At 1 and then 4 pixels a frame along a slope, exposed for half the time; to first order.
        const auto slow = [](double t) { return Place{0.8 * t, 0.6 * t}; };
        const auto fast = [](double t) { return Place{3.2 * t, 2.4 * t}; };
        const Image a = exposed(0, 0.5, slow);
        const Image b = exposed(0, 0.5, fast);
        const CameraStep step = blurBetween(a, b);
        QVERIFY(step.blurKnown);
        const double growth = 0.25 / 12;
        const std::array<double, 3> expected{growth * (10.24 - 0.64), growth * (7.68 - 0.48),
                                             growth * (5.76 - 0.36)};
        for (std::size_t i = 0; i < 3; ++i)
            QVERIFY2(std::abs(step.blur[i] - expected[i]) < 0.15 * expected[i],
                     qPrintable(QStringLiteral("%1 for %2").arg(step.blur[i]).arg(expected[i])));
        const CameraStep back = blurBetween(b, a);
        QVERIFY(std::abs(back.blur[0] + step.blur[0]) < 0.01); // turned about in time
        QVERIFY(std::abs(step.scaled(3).blur[0] - 9 * step.blur[0]) < 1e-9);
    }

    void whatDoesNotMoveAsOneIsNoStep() {
        const Image plain =
            pictureOf(width, height, {.model = ColourModel::grey}, [](int, int, int) { return 90; });
        QVERIFY(!stepBetween(plain, plain).known);
        const auto still = [](double) { return Place{}; };
        QVERIFY(!stepBetween(exposed(0, 0, still), exposed(0, 0, still, 100, 80)).known);
        QVERIFY(!stepBetween(exposed(0, 0, still, 3, 3), exposed(0, 0, still, 3, 3)).known);
        // Stripes fix nothing along themselves; noise has nothing in common.
        const auto stripes = [](double at) {
            return pictureOf(width, height, {.model = ColourModel::grey},
                             [=](int, int x, int) { return 120 + 90 * std::sin(0.4 * (x - at)); });
        };
        const CameraStep along = blurBetween(stripes(0), stripes(2));
        QVERIFY(std::isfinite(along.x) && std::abs(along.x) < width && std::abs(along.y) < height);
        const auto noise = [](int seed) {
            return pictureOf(width, height, {.model = ColourModel::grey}, [=](int, int x, int y) {
                return (x * 7919 + y * 104729 + seed * 15485863 + x * y * 31 * seed) % 251;
            });
        };
        QVERIFY(!stepBetween(noise(1), noise(2)).known);
        CameraStep none;
        measureBlur(none, *cameraPicture(plain), *cameraPicture(plain));
        QVERIFY(!none.blurKnown);
        CameraMeter meter; // a frame that cannot be had is no step either way
        const Image frame = exposed(0, 0, still);
        for (const Image* shown : {&frame, static_cast<const Image*>(nullptr), &frame, &frame})
            meter.measure(shown);
        QCOMPARE(meter.steps().size(), std::size_t{3});
        QVERIFY(!meter.steps()[0].known && !meter.steps()[1].known && meter.steps()[2].known);
    }

    void theExposureIsFoundAndSpeedsWithIt_data() {
        QTest::addColumn<double>("exposure");
        QTest::newRow("90 degrees") << 0.25;
        QTest::newRow("180 degrees") << 0.5;
        QTest::newRow("270 degrees") << 0.75;
    }
    void theExposureIsFoundAndSpeedsWithIt() {
        QFETCH(double, exposure);
        const CameraShake shake = cameraShake(stepsAlong(shaken, exposure));
        QVERIFY2(std::abs(shake.exposure - exposure) < 0.2 * exposure,
                 qPrintable(QString::number(shake.exposure)));
        QVERIFY(shake.gaps.size() >= frames - 4);
        // What is left of the way off the straight line, of the camera and of its speeds.
        double straight = 0;
        double left = 0;
        double beside = 0;
        double speeds = 0;
        for (const Shake& gap : shake.gaps) {
            const auto t = static_cast<double>(gap.gap);
            const Place a = shaken(t);
            const Place b = shaken(t + 1);
            const Place middle = shaken(t + 0.5);
            const double x = middle.x - (a.x + b.x) / 2;
            const double y = middle.y - (a.y + b.y) / 2;
            const auto off = offLine(gap, 0.5);
            straight += x * x + y * y;
            left += (x - off[0]) * (x - off[0]) + (y - off[1]) * (y - off[1]);
            const double changing = speedOf(t).x - (b.x - a.x); // beside the mean speed
            const double wrong = changing - static_cast<double>(gap.firstX);
            beside += changing * changing;
            speeds += wrong * wrong;
        }
        const auto count = static_cast<double>(shake.gaps.size());
        QVERIFY2(
            std::sqrt(left) < 0.4 * std::sqrt(straight),
            qPrintable(
                QStringLiteral("%1 of %2").arg(std::sqrt(left / count)).arg(std::sqrt(straight / count))));
        QVERIFY2(
            std::sqrt(speeds) < 0.4 * std::sqrt(beside),
            qPrintable(
                QStringLiteral("%1 of %2").arg(std::sqrt(speeds / count)).arg(std::sqrt(beside / count))));
    }

    void nothingIsToldWithoutBlurOrShake() {
        QCOMPARE(cameraShake(stepsAlong(shaken, 0)).gaps.size(), std::size_t{0}); // frames of no time
        const CameraShake pan = cameraShake(stepsAlong([](double t) { return Place{3 * t, t}; }, 0.5));
        QCOMPARE(pan, CameraShake{});
        QCOMPARE(cameraShake({}), CameraShake{});
        std::vector<CameraStep> steps = shakenSteps(); // in pieces too short to tell
        for (std::size_t n = 0; n < steps.size(); n += 3)
            steps[n].known = false;
        QCOMPARE(cameraShake(steps), CameraShake{});
    }

    void blurThatFollowsNothingIsNotBelieved() {
        // Some frames are softer than others, as after compression: no frame is exposed.
        std::vector<CameraStep> steps = stepsAlong(shaken, 0);
        for (std::size_t n = 0; n < steps.size(); ++n)
            for (std::size_t i : {std::size_t{0}, std::size_t{2}})
                steps[n].blur[i] += n % 4 == 0 ? 0.3 : -0.1;
        QCOMPARE(cameraShake(steps).exposure, 0.0);
    }

    void whatBlurHardlyTellsIsSaid() {
        const CameraShake sure = cameraShake(stepsWithBlurNoise(0.05));
        const CameraShake unsure = cameraShake(stepsWithBlurNoise(3));
        QVERIFY(sure.certainty > 10);
        QVERIFY2(unsure.certainty > 3.5 && unsure.certainty < 10,
                 qPrintable(QString::number(unsure.certainty))); // of so many frames, the law is known
        QVERIFY2(toldOnAverage(sure) > 0.95, qPrintable(QString::number(toldOnAverage(sure))));
        QVERIFY2(toldOnAverage(unsure) < 0.5, qPrintable(QString::number(toldOnAverage(unsure))));
        for (const Shake& gap : unsure.gaps)
            QVERIFY(gap.told >= 0 && gap.told <= 1);
    }

    void thePathBendsAsFarAsBlurTells() {
        const MidMotion even{4, 4, std::vector<MidCell>(16, MidCell{1, 0, 0.5F, 0}), {}};
        for (const float told : {0.0F, 0.25F, 1.0F}) {
            const Shake shake{.gap = 0, .firstX = 8, .firstY = 0, .lastX = -8, .lastY = 0, .told = told};
            const MidMotion bend = bendOf(even, {}, shake, 0.5, 8); // 2 pixels half way, a cell
            for (const MidCell& cell : bend.cells)
                QVERIFY(std::abs(cell.vx - told) < 1e-6F && cell.vy == 0);
        }
        QCOMPARE(scaled(Shake{.told = 0.3F}, 0.5F).told, 0.3F);
    }

    void thePathIsTheCubicOfItsPlacesAndSpeeds() {
        // p(t) = 3t³ − 2t² + t goes from 0 to 2; its speeds at the ends are 1 and 6, on the mean 2.
        const Shake shake{.gap = 0, .firstX = 1 - 2, .firstY = 0, .lastX = 6 - 2, .lastY = 0};
        for (const double t : {0.0, 0.25, 0.5, 0.9, 1.0})
            QVERIFY(std::abs(offLine(shake, t)[0] - (3 * t * t * t - 2 * t * t + t - 2 * t)) < 1e-12);
        QCOMPARE(offLine(shake, 0.3)[1], 0.0);
    }

    void thePlanNamesTheShakeOfItsGaps() {
        Shot shot;
        shot.method = Method::flow;
        const GapFindings found{
            .cuts = {}, .repeats = {4}, .shakes = {{1, 1, 2, 3, 4}, {3, 5, 6, 7, 8}, {6, 1, 1, 1, 1}}};
        const auto rows = [&] {
            const Timing half{.sourceRate = Rate(24, 1),
                              .outputRate = Rate(24, 1),
                              .from = 0,
                              .to = 7,
                              .speed = Rational(1, 2)};
            return makePlan(half, {shot.settingsInForce(), found}, 8).rows;
        };
        for (const PlanRow& row : rows()) {
            const bool known =
                row.kind == FrameKind::flow && (row.position.frame == 1 || row.position.frame == 6);
            QCOMPARE(row.shake.has_value(), known); // gap 3 is part of a bridged one
            if (known) QCOMPARE(row.shake->gap, row.position.frame);
        }
        shot.inBetweens.synthesis.bendPaths = false;
        for (const PlanRow& row : rows())
            QVERIFY(!row.shake);
    }

    void inBetweensFollowTheCamera_data() {
        QTest::addColumn<FlowQuality>("quality");
        QTest::addColumn<double>("gain");
        QTest::newRow("draft") << FlowQuality::draft << 4.0;
        QTest::newRow("standard") << FlowQuality::standard << 3.0;
        QTest::newRow("thorough") << FlowQuality::thorough << 3.0;
    }
    void inBetweensFollowTheCamera() {
        QFETCH(FlowQuality, quality);
        QFETCH(double, gain);
        const auto shot = std::make_shared<DrawnShot>(
            frames, [](std::int64_t n) { return *shakenFrames().at(static_cast<std::size_t>(n)); }, "wall");
        InBetweens settings;
        settings.flow.quality = quality;
        const FrameMaker maker(shot, std::make_shared<VectorStore>(), settings);
        const CameraShake shake = cameraShake(shakenSteps());
        double with = 0;
        double without = 0;
        int made = 0;
        for (const Shake& gap : shake.gaps) {
            if (gap.gap % 5 != 2) continue;
            PlanRow row = halfSpeedPlan(frames).rows[static_cast<std::size_t>(2 * gap.gap + 1)];
            const Image truth = exposed(static_cast<double>(gap.gap) + 0.5, 0.5, shaken);
            constexpr int edge = 10;
            without += lumaPsnr(*maker.make(row).image, truth, edge);
            const std::string key = maker.contentKey(row);
            row.shake = gap;
            with += lumaPsnr(*maker.make(row).image, truth, edge);
            QVERIFY(maker.contentKey(row) != key);
            ++made;
        }
        QVERIFY(made >= 3);
        QVERIFY2(with / made > without / made + gain,
                 qPrintable(QStringLiteral("%1 dB for %2").arg(with / made).arg(without / made)));
    }

    void aDraftAtHalfTheSizeShakesHalfAsFar() {
        // Of a picture that stands still the in-between is moved by the shake alone, 4 pixels half way.
        const auto still = [](double) { return Place{}; };
        const auto shot = std::make_shared<DrawnShot>(
            4, [=](std::int64_t) { return exposed(0, 0, still, 400, 300); }, "still");
        const FrameMaker whole(shot, std::make_shared<VectorStore>(), InBetweens{});
        PlanRow row = halfSpeedPlan(4).rows[3];
        row.shake = Shake{.gap = 1, .firstX = 16, .firstY = 0, .lastX = -16, .lastY = 0};
        const Image draft = *whole.forDraft().make(row).image;
        QCOMPARE(draft.width(), 200);
        const auto moved = [](double) { return Place{4, 0}; };
        const auto half = std::make_shared<DrawnShot>(
            4, [=](std::int64_t) { return exposed(0, 0, moved, 400, 300); }, "moved");
        const Image expected =
            *FrameMaker(half, nullptr, InBetweens{}).forDraft().make(halfSpeedPlan(4).rows[2]).image;
        constexpr int edge = 10;
        QVERIFY2(lumaPsnr(draft, expected, edge) > 36,
                 qPrintable(QString::number(lumaPsnr(draft, expected, edge))));
    }

    void aFileIsToldToBeShaken() {
        const Clips clips;
        const QString raw = clips.path(QStringLiteral("shaken.raw"));
        QFile file(raw);
        QVERIFY(file.open(QIODevice::WriteOnly));
        for (int n = 0; n < frames; ++n)
            file.write(rawSamples(*shakenFrames().at(static_cast<std::size_t>(n))));
        file.close();
        const QString clip =
            clips.make(QStringLiteral("shaken.mkv"),
                       {QStringLiteral("-f"), QStringLiteral("rawvideo"), QStringLiteral("-pix_fmt"),
                        QStringLiteral("gray16le"), QStringLiteral("-s"), QStringLiteral("160x120"),
                        QStringLiteral("-r"), QStringLiteral("24"), QStringLiteral("-i"), raw,
                        QStringLiteral("-c:v"), QStringLiteral("ffv1")});
        const auto index = std::make_shared<MediaIndex>(buildIndex(clip.toStdString()));
        const ShotFindings findings = inspectShot(index);
        QVERIFY(std::abs(findings.camera.exposure - 0.5) < 0.1);
        QVERIFY(QString::fromStdString(findings.describe())
                    .contains(QStringLiteral("shaken camera, shutter about ")));
        QCOMPARE(SourceAxis(*index, {}).findings(findings).shakes, findings.camera.gaps);
        Interpretation fields;
        fields.fields = FieldUse::toFrames;
        QVERIFY(SourceAxis(*index, fields).findings(findings).shakes.empty());
    }

    void itCanBeStopped() {
        std::stop_source source;
        source.request_stop();
        QVERIFY_THROWS_EXCEPTION(Cancelled, (void)cameraShake(shakenSteps(), source.get_token()));
    }
};

QTEST_APPLESS_MAIN(TestCameraShake)
#include "test_camera_shake.moc"
