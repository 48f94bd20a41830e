// Measures of single frames, against values worked out by hand.

#include "core/inspection/cuts.h"
#include "core/inspection/frame_metrics.h"
#include "core/inspection/repeats.h"
#include "support/film.h"
#include "support/pictures.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr PixelLayout grey{.model = ColourModel::grey};

Image even(int width, int height, int value, const PixelLayout& layout = grey) {
    return pictureOf(width, height, layout, [=](int, int, int) { return value; });
}

FrameMetrics second(const Image& first, const Image& next) {
    FrameMeter meter;
    meter.measure(first);
    return meter.measure(next);
}

/// Metrics as a frame of a steady pan has them.
FrameMetrics steady(double change) {
    FrameMetrics m;
    m.meanChange = change;
    m.peakChange = change * 2;
    m.floor = 0.2;
    return m;
}

} // namespace

class TestFrameMetrics : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void theSameFrameChangesNothing() {
        const Image image = drawFields(pan(0, 0), 0, 0, 128, 96);
        const FrameMetrics m = second(image, image);
        QCOMPARE(m.meanChange, 0.0);
        QCOMPARE(m.peakChange, 0.0);
        QCOMPARE(m.movingShare, 0.0);
        QCOMPARE(m.topEnergy, 0.0);
        QVERIFY(!m.topPlace.isKnown());
    }

    void aBrighterFrameChangesByTheDifference() {
        const FrameMetrics m = second(even(128, 96, 50), even(128, 96, 62));
        QCOMPARE(m.meanChange, 12.0);
        QCOMPARE(m.meanLuma, 62.0);
        QCOMPARE(m.histogram[62 / 4], 1.0F);
        for (const float tile : m.tiles)
            QCOMPARE(tile, 62.0F);
    }

    void fieldsHaveTheirPlacesInTime_data() {
        QTest::addColumn<int>("top");
        QTest::addColumn<int>("bottom");
        QTest::addColumn<double>("bottomPlace");
        QTest::addColumn<double>("topPlace");
        // All lines were 50. The bottom field lies where its lines lie from there to the top lines of now.
        QTest::newRow("whole") << 90 << 90 << 1.0 << 1.0;
        QTest::newRow("bottom half way") << 90 << 70 << 0.5 << 2.0;
        QTest::newRow("top half way") << 70 << 90 << 2.0 << 0.5;
        QTest::newRow("bottom a quarter of the way") << 130 << 70 << 0.25 << 4.0;
    }
    void fieldsHaveTheirPlacesInTime() {
        QFETCH(int, top);
        QFETCH(int, bottom);
        QFETCH(double, bottomPlace);
        QFETCH(double, topPlace);
        // The left half stays as it is, and shows that there is no noise.
        const Image next = pictureOf(256, 128, grey, [=](int, int x, int y) {
            return x < 128 ? 50 : y % 2 == 0 ? top : bottom;
        });
        const FrameMetrics m = second(even(256, 128, 50), next);
        QVERIFY(std::abs(m.bottomPlace.at - bottomPlace) < 1e-9);
        QVERIFY(std::abs(m.topPlace.at - topPlace) < 1e-9);
        QVERIFY(std::abs(m.topEnergy - (top - 50) * (top - 50)) < 1e-9);
        QVERIFY(std::abs(m.bottomEnergy - (bottom - 50) * (bottom - 50)) < 1e-9);
        QCOMPARE(m.movingShare, 0.5);
        QCOMPARE(m.noiseEnergy, 0.0);
    }

    void aFieldThatStaysGivesTheOtherNoPlace() {
        const Image next =
            pictureOf(256, 128, grey, [](int, int x, int y) { return x < 128 || y % 2 == 0 ? 50 : 90; });
        const FrameMetrics m = second(even(256, 128, 50), next);
        QVERIFY(!m.bottomPlace.isKnown());
        QCOMPARE(m.topPlace.at, 0.0);
        QCOMPARE(m.topEnergy, 0.0);
    }

    void slopesAreNoDetail() {
        const auto slope = [](int shift) {
            return pictureOf(64, 64, grey, [=](int, int, int y) { return 2 * y + shift; });
        };
        const FrameMetrics m = second(slope(0), slope(30));
        // Where nothing stands still, a change of 4 steps may be noise: 16 of 900.
        QVERIFY(std::abs(m.bottomPlace.at - 1) < 0.01);
        QVERIFY(std::abs(m.topPlace.at - 1) < 0.01);
    }

    void grainIsKeptApartFromMotion() {
        // A disc of 48 pixels moves over a still ground, with grain of 6 steps that is new in every frame.
        const auto draw = [](double t) { return drawFields(discOverStill(5, 24), t, t, 320, 144, 6); };
        const FrameMetrics m = second(draw(0), draw(1));
        QVERIFY(m.movingShare < 0.5);
        // Twice the variance of even values from −6 to 6, and half of that in means of two lines: 12; and
        // less in the stillest blocks, which are chosen for it.
        QVERIFY2(m.noiseEnergy > 8 && m.noiseEnergy < 13, qPrintable(QString::number(m.noiseEnergy)));
        QVERIFY2(m.bottomPlace.at > 0.75 && m.bottomPlace.at < 1.1,
                 qPrintable(QString::number(m.bottomPlace.at)));
        QVERIFY(std::abs(m.bottomPlace.at - m.topPlace.at) < 0.1);
        QVERIFY(m.bottomPlace.deviation > 0 && m.bottomPlace.deviation < 0.15);
    }

    void depthDoesNotMatter() {
        const auto at = [](int depth) {
            const int scale = 1 << (depth - 8);
            const PixelLayout layout{.model = ColourModel::grey, .depth = depth};
            const auto draw = [&](int t) {
                return pictureOf(96, 64, layout, [=](int, int x, int y) {
                    return std::floor(texture(x - 3.0 * t, y, 9, 1)) * scale;
                });
            };
            return second(draw(0), draw(1));
        };
        const FrameMetrics eight = at(8);
        for (const int depth : {10, 12, 16}) {
            const FrameMetrics deep = at(depth);
            QCOMPARE(deep.meanChange, eight.meanChange);
            QCOMPARE(deep.bottomPlace.at, eight.bottomPlace.at);
            QCOMPARE(deep.topEnergy, eight.topEnergy);
            QCOMPARE(deep.sharpness, eight.sharpness);
        }
    }

    void wideFramesAreThinnedNotDistorted() {
        // From 512 columns on every second stripe is left out; an even texture measures nearly the same.
        const auto at = [](int width) {
            return second(drawFields(pan(2, 1), 0, 0, width, 128), drawFields(pan(2, 1), 1, 1, width, 128));
        };
        const FrameMetrics narrow = at(480);
        const FrameMetrics broad = at(1280);
        QVERIFY2(std::abs(narrow.meanChange / broad.meanChange - 1) < 0.08,
                 qPrintable(QString::number(broad.meanChange)));
        QVERIFY(std::abs(narrow.topEnergy / broad.topEnergy - 1) < 0.15);
    }

    void anySizeIsMeasured_data() {
        QTest::addColumn<int>("width");
        QTest::addColumn<int>("height");
        for (const auto& [w, h] : {std::pair{1, 1}, {2, 1}, {1, 7}, {3, 3}, {31, 33}, {515, 2}, {719, 481}})
            QTest::addRow("%d x %d", w, h) << w << h;
    }
    void anySizeIsMeasured() {
        QFETCH(int, width);
        QFETCH(int, height);
        const FrameMetrics m = second(even(width, height, 10), even(width, height, 20));
        QCOMPARE(m.meanChange, 10.0);
        QCOMPARE(m.meanLuma, 20.0);
    }

    void anotherSizeStartsAnew() {
        const FrameMetrics m = second(even(64, 64, 10), even(32, 32, 200));
        QCOMPARE(m.meanChange, 0.0);
        QCOMPARE(m.meanLuma, 200.0);
    }

    void sharpnessFallsWithBlur() {
        const auto draw = [](double size) {
            return drawFields([=](double x, double y, double) { return texture(x, y, size, 5); }, 0, 0, 128,
                              96);
        };
        FrameMeter meter;
        QVERIFY(meter.measure(draw(3)).sharpness > 2 * meter.measure(draw(12)).sharpness);
    }

    void aSuddenMoveIsNoCut() {
        std::vector<FrameMetrics> frames(30, steady(0.3));
        frames[15] = steady(8); // much change, but the same tiles and histogram
        QVERIFY(findCuts(frames).empty());
        for (std::size_t n = 15; n < frames.size(); ++n)
            frames[n].tiles.fill(60);
        QCOMPARE(findCuts(frames), (std::vector<std::int64_t>{15}));
    }

    void cutsNextToEachOtherAndAtTheEndsAreFound() {
        std::vector<FrameMetrics> frames(20, steady(1));
        const auto scene = [&](std::size_t from, float luma) {
            frames[from].meanChange = 40;
            for (std::size_t n = from; n < frames.size(); ++n)
                frames[n].tiles.fill(luma);
        };
        scene(1, 40);
        scene(12, 90);
        scene(17, 150);
        QCOMPARE(findCuts(frames), (std::vector<std::int64_t>{1, 12, 17}));
        QVERIFY(findCuts({}).empty());
        QVERIFY(findCuts(std::span(frames).first(1)).empty());
    }

    void repeatsNeedMotionAround() {
        std::vector<FrameMetrics> frames(40, steady(3));
        frames[20].peakChange = 0.3;
        QCOMPARE(findRepeats(frames).frames, (std::vector<std::int64_t>{20}));
        for (FrameMetrics& m : frames)
            m.peakChange = 0.4; // all still
        QVERIFY(findRepeats(frames).frames.empty());
    }

    void aRhythmIsNamedOnlyWhenItIsKept() {
        std::vector<FrameMetrics> frames(48, steady(3));
        for (std::size_t n = 1; n < frames.size(); n += 2)
            frames[n].peakChange = 0.2;
        QCOMPARE(findRepeats(frames).heldFor, 2);
        for (std::size_t n = 9; n < frames.size(); n += 4)
            frames[n].peakChange = 6; // every second hold is broken
        QCOMPARE(findRepeats(frames).heldFor, 1);
    }
};

QTEST_APPLESS_MAIN(TestFrameMetrics)
#include "test_frame_metrics.moc"
