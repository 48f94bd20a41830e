// Tone, softening, sharpening, grain and smear: what they do to samples, against numbers worked out apart.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/error.h"
#include "core/finish/smear.h"
#include "core/finish/texture.h"
#include "core/finish/tone.h"

#include "support/film.h"
#include "support/pictures.h"
#endif

#include <QTest>

#include <cmath>
#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

const PixelLayout grey{.model = ColourModel::grey};

Image toned(const Image& image, const ToneKey& key, const ColourTags& colour = {}) {
    FloatPicture picture = inFloats(image);
    Tone(key).apply(picture, colour);
    return inSamples(picture);
}

double deviationOf(const FloatPlane& plane) {
    double sum = 0;
    double squares = 0;
    const int n = plane.width * plane.height;
    for (int y = 0; y < plane.height; ++y)
        for (int x = 0; x < plane.width; ++x) {
            const auto v = static_cast<double>(plane.row(y)[x]);
            sum += v;
            squares += v * v;
        }
    return std::sqrt(squares / n - sum / n * sum / n);
}

} // namespace

class TestFinishLook : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void curvesGoThroughTheirPointsAndNowhereBeyond() {
        const std::vector<CurvePoint> points{{0, 0},      {0.1, 0.02}, {0.3, 0.02},
                                             {0.35, 0.9}, {0.8, 0.95}, {1, 1}};
        const MonotoneCurve curve(points);
        for (const CurvePoint& p : points)
            QVERIFY(std::abs(curve(p.x) - p.y) < 1e-12);
        double before = -1;
        for (int i = 0; i <= 1000; ++i) {
            const double v = curve(i / 1000.0);
            QVERIFY(v >= before - 1e-12 && v >= 0 && v <= 1);
            before = v;
        }
        // Level between two of one height.
        QVERIFY(std::abs(curve(0.2) - 0.02) < 1e-12);
        // Two points are a line.
        QVERIFY(std::abs(MonotoneCurve({{0, 0.1}, {1, 0.7}})(0.25) - 0.25) < 1e-12);
    }

    void blackWhiteAndGammaAreWhatTheirFormulaSays_data() {
        QTest::addColumn<int>("depth");
        QTest::addColumn<bool>("full");
        QTest::newRow("8 bit, limited") << 8 << false;
        QTest::newRow("10 bit, limited") << 10 << false;
        QTest::newRow("16 bit, full") << 16 << true;
    }
    void blackWhiteAndGammaAreWhatTheirFormulaSays() {
        QFETCH(int, depth);
        QFETCH(bool, full);
        const PixelLayout layout{.depth = depth};
        const ColourTags colour{.fullRange = full};
        const double step = std::pow(2, depth - 8);
        const double black = full ? 0 : 16 * step;
        const double white = full ? layout.maxValue() : 235 * step;
        const Image ramp = pictureOf(200, 16, layout, [&](int p, int x, int) {
            return p == 0 ? black + (white - black) * x / 199 : 128 * step + (x % 40 - 20) * step;
        });
        const Image out = toned(ramp, {.black = 0.1, .white = 0.8, .gamma = 1.5, .saturation = 0.5}, colour);
        for (int x = 0; x < 200; ++x) {
            const double v = (sampleAt(ramp, 0, x, 3) - black) / (white - black);
            const double t = (v - 0.1) / 0.7;
            const double want = t <= 0 ? t : t >= 1 ? t : std::pow(t, 1 / 1.5);
            const double sample =
                std::clamp(black + (white - black) * want, 0.0, static_cast<double>(layout.maxValue()));
            QVERIFY2(
                std::abs(sampleAt(out, 0, x, 3) - sample) <= 0.5 + 0.004 * step * 16,
                qPrintable(QStringLiteral("%1: %2, not %3").arg(x).arg(sampleAt(out, 0, x, 3)).arg(sample)));
            const double chroma = 128 * step + (sampleAt(ramp, 1, x, 3) - 128 * step) / 2;
            QVERIFY(std::abs(sampleAt(out, 1, x, 3) - chroma) <= 0.51);
        }
    }

    void lightOfASceneIsTonedInLight() {
        Image image(4, 1, {.model = ColourModel::rgb, .samples = SampleKind::real});
        for (int p = 0; p < 3; ++p)
            for (std::size_t x = 0; x < 4; ++x)
                image.row<float>(p, 0)[x] = std::array{-0.1F, 0.25F, 1.0F, 6.0F}[x];
        const Image out = toned(image, {.gamma = 2});
        QVERIFY(std::abs(out.row<float>(0, 0)[1] - 0.5F) < 1e-3F);
        QVERIFY(std::abs(out.row<float>(0, 0)[0] + 0.1F) < 1e-5F); // nothing is cut off
        QVERIFY(std::abs(out.row<float>(0, 0)[3] - 6.0F) < 1e-4F);
        // Grey keeps its light, whatever the saturation.
        const Image dull = toned(image, {.saturation = 0});
        QVERIFY(std::abs(dull.row<float>(1, 0)[3] - 6.0F) < 1e-4F);
    }

    void toneGoesFromKeyToKey() {
        const std::vector<ToneKey> keys{{.at = 10, .black = 0}, {.at = 20, .black = 0.2, .saturation = 2}};
        const Tone half(keys, 15);
        // The mean of what both make of a half: 0.5, and 0.3 / 0.8.
        QVERIFY(std::abs(half(0.5F) - (0.5F + 0.375F) / 2) < 1e-4F);
        QVERIFY(std::abs(half.saturation() - 1.5F) < 1e-6F);
        QVERIFY(Tone(keys, 3).isNothing());
        QVERIFY(std::abs(Tone(keys, 40)(0.5F) - 0.375F) < 1e-4F);
    }

    void histogramsCountWhatIsCutOff() {
        const Image image = pictureOf(100, 10, {.chromaShiftX = 1, .chromaShiftY = 1}, [](int p, int x, int) {
            return p > 0 ? 128 : x < 25 ? 12 : x < 90 ? 125 : 250;
        });
        const Histogram histogram = histogramOf(image, {});
        QVERIFY(std::abs(histogram.black - 0.25) < 1e-9);
        QVERIFY(std::abs(histogram.white - 0.10) < 1e-9);
        float sum = 0;
        for (const float share : histogram.shares)
            sum += share;
        QVERIFY(std::abs(sum - 1) < 1e-5F);
        const auto bin = static_cast<std::size_t>(std::lround((125.0 - 16) / 219 * (Histogram::bins - 1)));
        QVERIFY(std::abs(histogram.shares[bin] - 0.65F) < 1e-5F);
    }

    void softeningAndSharpeningUndoEachOtherAboutAnEdge() {
        const Image edge = pictureOf(80, 40, grey, [](int, int x, int) { return x < 40 ? 80 : 160; });
        FloatPicture soft = inFloats(edge);
        softenAndSharpen(soft, {.softenRadius = 3, .soften = 100}, 1);
        // A step softened by a Gaussian is its distribution function: one deviation off, 84.1 %.
        const auto at = [&](const FloatPicture& p, int x) {
            return static_cast<double>(p.planes[0].row(20)[x]);
        };
        QVERIFY(std::abs(at(soft, 42) - (80 + 80 * 0.7977)) < 0.6); // 2.5 pixels of 3: Φ(0.833)
        QVERIFY(std::abs(at(soft, 37) + at(soft, 42) - 240) < 0.01);
        FloatPicture half = inFloats(edge);
        softenAndSharpen(half, {.softenRadius = 3, .soften = 50}, 1);
        QVERIFY(std::abs(at(half, 42) - (at(soft, 42) + 160) / 2) < 0.01);
        FloatPicture sharp = inFloats(edge);
        softenAndSharpen(sharp, {.sharpenRadius = 3, .sharpen = 100}, 1);
        QVERIFY(std::abs(at(sharp, 42) - (160 + (160 - at(soft, 42)))) < 0.01);
        // Of a draft of half the size, half the radius.
        FloatPicture draft = inFloats(edge);
        softenAndSharpen(draft, {.softenRadius = 6, .soften = 100}, 0.5);
        QVERIFY(std::abs(at(draft, 42) - at(soft, 42)) < 1e-4);
        // Wide ones go by way of a smaller picture and come out the same.
        const Image wide = pictureOf(400, 60, grey, [](int, int x, int) { return x < 200 ? 80 : 160; });
        FloatPicture very = inFloats(wide);
        softenAndSharpen(very, {.softenRadius = 40, .soften = 100}, 1);
        QVERIFY(std::abs(static_cast<double>(very.planes[0].row(30)[240]) - (80 + 80 * 0.8438)) < 1.0);
    }

    void grainIsMeasuredAsItWasDrawn_data() {
        QTest::addColumn<double>("deviation"); // of 255
        QTest::addColumn<double>("size");
        QTest::newRow("fine") << 4.0 << 0.0;
        QTest::newRow("coarse") << 5.0 << 0.8;
        QTest::newRow("faint") << 1.5 << 0.5;
    }
    void grainIsMeasuredAsItWasDrawn() {
        QFETCH(double, deviation);
        QFETCH(double, size);
        const Image scene = pictureOf(640, 360, {.depth = 16}, [](int p, int x, int y) {
            return p == 0 ? 257 * (60 + 0.6 * texture(x, y, 90, 4)) : 32768;
        });
        const ColourTags full{.fullRange = true};
        FloatPicture picture = inFloats(scene);
        GrainLook drawn;
        drawn.luma.fill(deviation / 255);
        drawn.size = size;
        addGrain(picture, drawn, full, 9);
        const GrainLook found = grainOf(picture, full);
        QVERIFY2(std::abs(found.luma[1] * 255 - deviation) < 0.12 * deviation + 0.1,
                 qPrintable(QString::number(found.luma[1] * 255)));
        QVERIFY2(std::abs(found.size - size) < 0.2, qPrintable(QString::number(found.size)));
    }

    void addedGrainHasItsStrengthAndItsSeed() {
        const ColourTags full{.fullRange = true};
        const Image flat = pictureOf(300, 200, grey, [](int, int, int) { return 128; });
        GrainLook look;
        look.luma.fill(0.05);
        look.size = 1.2;
        FloatPicture first = inFloats(flat);
        addGrain(first, look, full, 1);
        QVERIFY(std::abs(deviationOf(first.planes[0]) / 255 - 0.05) < 0.003);
        FloatPicture again = inFloats(flat);
        addGrain(again, look, full, 1);
        QVERIFY(inSamples(first) == inSamples(again));
        FloatPicture other = inFloats(flat);
        addGrain(other, look, full, 2);
        QVERIFY(!(inSamples(first) == inSamples(other)));
    }

    void missingGrainAddsUpToWhatIsWanted() {
        GrainLook want;
        want.luma.fill(0.05);
        GrainLook have;
        have.luma.fill(0.03);
        QVERIFY(std::abs(missingGrain(want, have).luma[2] - 0.04) < 1e-12);
        QCOMPARE(missingGrain(have, want).luma[0], 0.0);
    }

    void aSmearIsTheMeanAlongALine() {
        // A line of light becomes a bar as long as the smear, of the same light.
        const Image line = pictureOf(201, 101, grey, [](int, int x, int) { return x == 100 ? 200 : 0; });
        FloatPicture across = inFloats(line);
        smear(across, 40, 0, 1);
        double sum = 0;
        for (int x = 0; x < 201; ++x)
            sum += static_cast<double>(across.planes[0].row(50)[x]);
        QVERIFY(std::abs(sum - 200) < 0.5);
        QVERIFY2(std::abs(static_cast<double>(across.planes[0].row(50)[100]) - 200.0 / 40) < 0.8,
                 qPrintable(QString::number(static_cast<double>(across.planes[0].row(50)[100]))));
        QVERIFY(static_cast<double>(across.planes[0].row(50)[115]) > 3.5);
        QVERIFY(static_cast<double>(across.planes[0].row(50)[124]) < 0.5);
        // Along the line itself nothing changes.
        FloatPicture down = inFloats(line);
        smear(down, 40, 90, 1);
        QVERIFY(std::abs(static_cast<double>(down.planes[0].row(50)[100]) - 200) < 0.5);
        QVERIFY(std::abs(static_cast<double>(down.planes[0].row(50)[102])) < 0.5);
    }

    void smearsSwellAndEbb() {
        const Smear before{.from = 80, .to = 100, .peak = SmearPeak::end};
        QCOMPARE(strengthAt(before, 79), 0.0);
        QVERIFY(strengthAt(before, 80) < 1e-12);
        QVERIFY(std::abs(strengthAt(before, 90) - 0.5) < 1e-12);
        QVERIFY(std::abs(strengthAt(before, 100) - 1) < 1e-12);
        const Smear after{.from = 0, .to = 20, .peak = SmearPeak::start};
        QVERIFY(std::abs(strengthAt(after, 0) - 1) < 1e-12);
        const Smear middle{.from = 0,
                           .to = 20,
                           .peak = SmearPeak::middle,
                           .length = 0.2,
                           .angle = 10,
                           .turn = 5,
                           .bulge = 50};
        QVERIFY(std::abs(strengthAt(middle, 10) - 1) < 1e-12);
        const std::vector<Smear> both{after, middle};
        const SmearNow now = smearAt(both, 10); // the stronger one
        QVERIFY(std::abs(now.length - 0.2) < 1e-12 && std::abs(now.angle - 15) < 1e-12 &&
                std::abs(now.bulge - 0.5) < 1e-12);
        QVERIFY(smearAt(both, 50).isNothing());
    }
};

QTEST_GUILESS_MAIN(TestFinishLook)
#include "test_finish_look.moc"
