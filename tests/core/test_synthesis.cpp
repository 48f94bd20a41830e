// In-betweens against the true frame: known shifts, covered and uncovered ground, and the heron.

#include "core/media/library_messages.h"
#include "core/motion/flow_estimator.h"
#include "core/synthesis/blend.h"
#include "core/synthesis/frame_maker.h"
#include "core/synthesis/warp.h"
#include "support/clips.h"
#include "support/drawn_shot.h"
#include "support/flow_by_pixels.h"
#include "support/pictures.h"
#include "theatre/theatre.h"

#include <QTest>

#include <array>
#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

/// Smooth texture that is the same everywhere it is asked for, so that any shift of it is known exactly.
double texture(double x, double y) {
    return 128 + 34 * std::sin(x * 0.31 + 0.4 * std::sin(y * 0.17)) + 30 * std::sin(y * 0.23 + x * 0.05) +
           22 * std::sin((x + 2 * y) * 0.11) + 14 * std::sin(x * 0.9) * std::sin(y * 0.7);
}

Image shifted(double dx, double dy, int depth = 8) {
    const PixelLayout layout{.depth = depth, .chromaShiftX = 1, .chromaShiftY = 1};
    const double scale = layout.maxValue() / 255.0;
    return pictureOf(192, 128, layout, [&](int p, int x, int y) {
        const double s = p == 0 ? 1 : 2;
        return scale * (p == 0 ? texture(x - dx, y - dy) : 64 + 0.5 * texture(x * s - dx, y * s - dy));
    });
}

/// A bright textured square that moves over a still, textured ground.
Image squareAt(double left) {
    return pictureOf(192, 128, {.model = ColourModel::grey, .depth = 8}, [&](int, int x, int y) {
        const bool inside = x >= left && x < left + 40 && y >= 40 && y < 80;
        return inside ? 200 + 0.2 * (texture((x - left) * 3, y * 3) - 128) : 0.6 * texture(x, y);
    });
}

} // namespace

class TestSynthesis : public QObject {
    Q_OBJECT

    Clips clips_;

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void vectorsOfAKnownShift_data() {
        QTest::addColumn<double>("dx");
        QTest::addColumn<double>("dy");
        QTest::newRow("right") << 6.0 << 0.0;
        QTest::newRow("up left") << -4.0 << -3.0;
        QTest::newRow("subpixel") << 1.5 << 0.5;
        QTest::newRow("still") << 0.0 << 0.0;
    }
    void vectorsOfAKnownShift() {
        QFETCH(double, dx);
        QFETCH(double, dy);
        const Vectors v = flowByPixels(shifted(0, 0), shifted(dx, dy));
        double error = 0;
        int count = 0;
        for (int y = 16; y < 112; ++y)
            for (int x = 16; x < 176; ++x, ++count) {
                error += std::hypot(v.forward.row(y)[2 * x] - dx, v.forward.row(y)[2 * x + 1] - dy);
                error += std::hypot(v.backward.row(y)[2 * x] + dx, v.backward.row(y)[2 * x + 1] + dy);
            }
        QVERIFY2(error / (2 * count) < 0.15, qPrintable(QString::number(error / (2 * count))));
        QVERIFY(v.doubt() < 0.12);
    }

    void doubtFollowsTheError() {
        // The same two pictures, moved rightly, by half of it, and not at all.
        const Image a = shifted(0, 0);
        const Image b = shifted(6, 0);
        const auto doubtAt = [&](float vx, double phase) {
            Vectors v = estimateFlow(a, b, {});
            for (std::size_t i = 0; i < v.forward.xy.size(); i += 2) {
                v.forward.xy[i] = vx;
                v.backward.xy[i] = -vx;
                v.forward.xy[i + 1] = v.backward.xy[i + 1] = 0;
            }
            return warpBetween(a, b, v, phase).doubt;
        };
        const double right = doubtAt(6, 0.5);
        const double half = doubtAt(3, 0.5);
        QVERIFY2(right < 0.12, qPrintable(QString::number(right)));
        QVERIFY2(half > 3 * right && half < 1, qPrintable(QString::number(half)));
        QVERIFY(doubtAt(0, 0.5) > right);
        // Nearest to a source frame is surest.
        QVERIFY(doubtAt(3, 0.25) < half);
        QCOMPARE(doubtAt(3, 0.5), half); // the same every time, however many workers
    }

    void inBetweensOfAKnownShiftAreTheTrueFrames_data() {
        QTest::addColumn<int>("depth");
        QTest::addColumn<double>("phase");
        for (const int depth : {8, 10, 16})
            for (const double phase : {0.25, 0.5, 0.75})
                QTest::addRow("%d bit at %.2f", depth, phase) << depth << phase;
    }
    void inBetweensOfAKnownShiftAreTheTrueFrames() {
        QFETCH(int, depth);
        QFETCH(double, phase);
        const Image a = shifted(0, 0, depth);
        const Image b = shifted(8, 4, depth);
        const WarpedFrame made = warpBetween(a, b, estimateFlow(a, b, {}), phase);
        const Image truth = shifted(8 * phase, 4 * phase, depth);
        const double psnr = lumaPsnr(made.image, truth, 12);
        QVERIFY2(psnr > 40, qPrintable(QString::number(psnr)));
        QVERIFY(made.image.layout() == a.layout());
        // Chroma moves by half as many of its own samples.
        double worst = 0;
        for (int y = 8; y < 56; ++y)
            for (int x = 8; x < 88; ++x)
                worst = std::max(worst, std::abs(static_cast<double>(sampleAt(made.image, 1, x, y) -
                                                                     sampleAt(truth, 1, x, y))) /
                                            a.layout().maxValue());
        QVERIFY2(worst < 0.06, qPrintable(QString::number(worst)));
    }

    void hiddenGroundIsTakenFromTheSideThatSeesIt() {
        const Image a = squareAt(40);
        const Image b = squareAt(56);
        const Image truth = squareAt(48);
        const WarpedFrame made = warpBetween(a, b, estimateFlow(a, b, {}), 0.5);
        const std::array<ImagePtr, 2> both{std::make_shared<Image>(a), std::make_shared<Image>(b)};
        const std::array<double, 2> halves{0.5, 0.5};
        const double flow = lumaPsnr(made.image, truth);
        const double blend = lumaPsnr(blendFrames(both, halves), truth);
        QVERIFY2(flow > blend + 4, qPrintable(QStringLiteral("flow %1, blend %2").arg(flow).arg(blend)));
        // Ground far from the square does not swim.
        double worst = 0;
        for (int y = 100; y < 124; ++y)
            for (int x = 4; x < 188; ++x)
                worst = std::max(worst, std::abs(static_cast<double>(sampleAt(made.image, 0, x, y) -
                                                                     sampleAt(truth, 0, x, y))));
        QVERIFY2(worst <= 6, qPrintable(QString::number(worst)));
    }

    void tinyPicturesAreBlended() {
        const Image a = pictureOf(5, 3, {.depth = 8}, [](int, int, int) { return 100; });
        const Image b = pictureOf(5, 3, {.depth = 8}, [](int, int, int) { return 50; });
        const WarpedFrame made = warpBetween(a, b, estimateFlow(a, b, {}), 0.5);
        QCOMPARE(sampleAt(made.image, 0, 2, 1), 75);
    }

    void flowBeatsBlendOnTheHeron() {
        const QString shot = clips_.path(QStringLiteral("heron.mkv"));
        const QString truth = clips_.path(QStringLiteral("truth.mkv"));
        theatre::makeHeron(shot.toStdString(), truth.toStdString(), 480, 270, 8);
        const auto source = openSource(shot);
        const auto real = openSource(truth);
        QCOMPARE(real->frames(), source->frames() * 4);
        const Timing timing{.sourceRate = source->facts().rate,
                            .outputRate = source->facts().rate,
                            .from = 0,
                            .to = 7,
                            .speed = Rational(1, 4)};
        const auto store = std::make_shared<VectorStore>();
        const FrameMaker maker(source, store, InBetweens{});
        double flow = 0;
        double blend = 0;
        int worse = 0;
        int made = 0;
        const FramePlan flowPlan = makePlan(timing, Method::flow, 8);
        const FramePlan blendPlan = makePlan(timing, Method::blend, 8);
        for (std::size_t n = 0; n < flowPlan.rows.size(); ++n) {
            if (flowPlan.rows[n].kind != FrameKind::flow) continue;
            const ImagePtr trueFrame = real->frame(static_cast<std::int64_t>(n));
            const double f = lumaPsnr(*maker.make(flowPlan.rows[n]).image, *trueFrame);
            const double b = lumaPsnr(*maker.make(blendPlan.rows[n]).image, *trueFrame);
            flow += f;
            blend += b;
            worse += f < b ? 1 : 0;
            ++made;
        }
        QVERIFY2(flow / made > blend / made + 3,
                 qPrintable(QStringLiteral("flow %1 dB, blend %2 dB").arg(flow / made).arg(blend / made)));
        QCOMPARE(worse, 0);
    }

    void blurredFramesBendAsOthersDo() {
        // Speeds up steadily: at time t the picture stands at 3/2 t².
        const auto at = [](double t) { return shifted(1.5 * t * t, 0); };
        const auto shot =
            std::make_shared<DrawnShot>(4, [&](std::int64_t n) { return at(static_cast<double>(n)); });
        const PlanRow row = halfSpeedPlan(4, 180).rows[3];
        QCOMPARE(row.open, Rational(1, 4));
        BlendSum exposure; // what the shutter sees from 1 3/8 to 1 5/8
        constexpr int moments = 32;
        for (int i = 0; i < moments; ++i)
            exposure.add(at(1.5 + (0.25 * (i + 0.5) / moments - 0.125)), 1.0 / moments);
        const Image truth = exposure.mean();
        const auto psnr = [&](bool bend) {
            InBetweens settings;
            settings.synthesis.bendPaths = bend;
            const FrameMaker maker(shot, std::make_shared<VectorStore>(), settings);
            return lumaPsnr(*maker.make(row).image, truth, 48);
        };
        const double straight = psnr(false);
        const double bent = psnr(true);
        QVERIFY2(bent > straight + 5, qPrintable(QStringLiteral("%1, %2").arg(straight).arg(bent)));
    }

    void originalsAreTheSourceFrameItself() {
        const QString clip =
            clips_.moving(QStringLiteral("o.mkv"), 4, {QStringLiteral("-c:v"), QStringLiteral("ffv1")});
        const auto source = openSource(clip);
        const FrameMaker maker(source, std::make_shared<VectorStore>(), InBetweens{});
        const Timing timing{.sourceRate = Rate(24, 1),
                            .outputRate = Rate(24, 1),
                            .from = 0,
                            .to = 3,
                            .speed = Rational(1, 2)};
        const FramePlan plan = makePlan(timing, Method::flow, 4);
        QCOMPARE(maker.make(plan.rows[2]).image, source->frame(1)); // the same picture, not a copy
        QVERIFY(!maker.make(plan.rows[2]).doubt);
        QVERIFY(maker.make(plan.rows[1]).doubt.has_value());
    }

    void keysDifferExactlyWhenPicturesCan() {
        const auto source = openSource(
            clips_.moving(QStringLiteral("k.mkv"), 8, {QStringLiteral("-c:v"), QStringLiteral("ffv1")}));
        const auto store = std::make_shared<VectorStore>();
        const FrameMaker standard(source, store, InBetweens{});
        const FrameMaker draft(source, store, InBetweens().forDraft());
        const Timing half{.sourceRate = Rate(24, 1),
                          .outputRate = Rate(24, 1),
                          .from = 0,
                          .to = 7,
                          .speed = Rational(1, 2)};
        Timing quarter = half;
        quarter.speed = Rational(1, 4);
        const auto flow = makePlan(half, Method::flow, 8);
        const auto blend = makePlan(half, Method::blend, 8);
        const auto slower = makePlan(quarter, Method::flow, 8);
        QVERIFY(standard.contentKey(flow.rows[1]) != draft.contentKey(flow.rows[1]));
        QVERIFY(standard.contentKey(flow.rows[1]) != standard.contentKey(blend.rows[1]));
        QCOMPARE(standard.contentKey(blend.rows[1]),
                 draft.contentKey(blend.rows[1])); // quality does not touch blends
        QCOMPARE(standard.contentKey(flow.rows[1]),
                 standard.contentKey(slower.rows[2])); // both half way from 0 to 1
        QVERIFY(standard.contentKey(slower.rows[1]) != standard.contentKey(slower.rows[2]));
    }
};

QTEST_APPLESS_MAIN(TestSynthesis)
#include "test_synthesis.moc"
