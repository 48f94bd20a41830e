// Lost frames and parts of the picture that are held, in drawn film whose truth is known.

#include "core/inspection/shot_findings.h"
#include "support/film.h"
#include "support/pictures.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 144;

/// Draws the film at these moments and looks for lost frames.
std::vector<Drop> dropsOf(const Scenery& scenery, const std::vector<double>& moments, double grain = 0) {
    std::vector<ImagePtr> frames;
    std::vector<FrameMetrics> metrics;
    FrameMeter meter;
    for (const double t : moments) {
        frames.push_back(std::make_shared<Image>(drawFields(scenery, t, t, width, height, grain)));
        metrics.push_back(meter.measure(*frames.back()));
    }
    const ShotFindings findings = findingsFrom(metrics);
    return confirmDrops(suspectedDrops(metrics, findings.repeats.frames, findings.cuts),
                        findings.repeats.frames, findings.frames,
                        [&](std::int64_t n) { return frames.at(static_cast<std::size_t>(n)); });
}

/// 0, 1, 2 … without the `lost`.
std::vector<double> momentsWithout(const std::vector<int>& lost, int end) {
    std::vector<double> moments;
    for (int t = 0; t < end; ++t)
        if (std::find(lost.begin(), lost.end(), t) == lost.end()) moments.push_back(t);
    return moments;
}

HeldPart heldPartOf(const Scenery& scenery, int count, double grain) {
    std::vector<FrameMetrics> metrics;
    metrics.reserve(static_cast<std::size_t>(count));
    FrameMeter meter;
    for (int n = 0; n < count; ++n)
        metrics.push_back(meter.measure(drawFields(scenery, n, n, width, height, grain)));
    return findingsFrom(metrics).heldPart;
}

/// A disc that moves every `held` frames over a ground that sways in each.
Scenery heldDisc(int held, int phase) {
    return [=](double x, double y, double t) {
        const double drawn = std::floor((t - phase) / held) * held;
        const double cx = 40 + 5 * drawn;
        if (std::hypot(x - cx, y - 70) < 26)
            return 60 + 150 * hashed(static_cast<std::int64_t>(x - cx + 64) / 5,
                                     static_cast<std::int64_t>(y) / 5, 9);
        return texture(x - 8 * std::sin(t / 7), y, 14, 3);
    };
}

} // namespace

class TestIrregularMotion : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void ofTinyStillPicturesNoneIsConfirmed() {
        const auto still = std::make_shared<const Image>(
            pictureOf(32, 32, {.depth = 8}, [](int, int x, int y) { return 100.0 + 3 * (x % 5) + y; }));
        const std::vector<std::int64_t> suspected{3, 5};
        QVERIFY(confirmDrops(suspected, {}, 10, [&](std::int64_t) { return ImagePtr(still); }).empty());
    }

    void lostFramesAreFound_data() {
        QTest::addColumn<int>("missing");
        QTest::addColumn<double>("grain");
        QTest::newRow("one") << 1 << 0.0;
        QTest::newRow("one, with grain") << 1 << 3.0;
        QTest::newRow("two") << 2 << 0.0;
        QTest::newRow("three") << 3 << 0.0;
    }
    void lostFramesAreFound() {
        QFETCH(int, missing);
        QFETCH(double, grain);
        std::vector<int> lost;
        lost.reserve(static_cast<std::size_t>(missing));
        for (int i = 0; i < missing; ++i)
            lost.push_back(20 + i);
        const auto drops = dropsOf(pan(2, 0.5, 4), momentsWithout(lost, 40), grain);
        QCOMPARE(drops.size(), std::size_t{1});
        QCOMPARE(drops[0], (Drop{19, missing, false, drops[0].certainty}));
        QVERIFY(drops[0].certainty > 0.8);
    }

    void aRepeatInPlaceOfALostFrameIsToldAsSuch() {
        std::vector<double> moments = momentsWithout({}, 40);
        moments[20] = 19;
        const auto drops = dropsOf(pan(2, 0.5, 4), moments);
        QCOMPARE(drops.size(), std::size_t{1});
        QCOMPARE(drops[0], (Drop{20, 1, true, drops[0].certainty}));
    }

    void severalLossesAreAllFound() {
        const auto drops = dropsOf(pan(3, 0), momentsWithout({10, 21, 33}, 48));
        QCOMPARE(drops.size(), std::size_t{3});
        QCOMPARE(drops[0].after, 9);
        QCOMPARE(drops[1].after, 19); // one frame less by then
        QCOMPARE(drops[2].after, 30);
    }

    void noneAreInvented_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("steady pan") << 0;
        QTest::newRow("pan that speeds up") << 1;
        QTest::newRow("pan that starts") << 2;
        QTest::newRow("disc over still ground") << 3;
        QTest::newRow("swaying") << 4;
        QTest::newRow("flash") << 5;
    }
    void noneAreInvented() {
        QFETCH(int, kind);
        Scenery scenery = pan(3, 0);
        if (kind == 1)
            scenery = [](double x, double y, double t) { return texture(x - 0.04 * t * t, y, 9, 1); };
        else if (kind == 2)
            scenery = [](double x, double y, double t) {
                return texture(x - 4 * std::max(0.0, t - 20), y, 9, 1);
            };
        else if (kind == 3)
            scenery = discOverStill(6);
        else if (kind == 4)
            scenery = [](double x, double y, double t) { return texture(x - 12 * std::sin(t / 5), y, 9, 1); };
        else if (kind == 5)
            scenery = [](double x, double y, double t) {
                return texture(x - 2 * t, y, 9, 1) + (t > 19.5 && t < 20.5 ? 35.0 : 0.0);
            };
        QCOMPARE(dropsOf(scenery, momentsWithout({}, 44)).size(), std::size_t{0});
    }

    void aHeldPartIsFound_data() {
        QTest::addColumn<int>("held");
        QTest::addColumn<int>("phase");
        QTest::addColumn<double>("grain");
        for (const int held : {2, 3})
            for (int phase = 0; phase < held; ++phase)
                for (const double grain : {0.0, 3.0})
                    QTest::addRow("held %d, phase %d, grain %.0f", held, phase, grain)
                        << held << phase << grain;
    }
    void aHeldPartIsFound() {
        QFETCH(int, held);
        QFETCH(int, phase);
        QFETCH(double, grain);
        const HeldPart part = heldPartOf(heldDisc(held, phase), 48, grain);
        QCOMPARE(part.heldFor, held);
        QCOMPARE(part.changesAt, phase);
    }

    void noHeldPartIsInvented() {
        QCOMPARE(heldPartOf(discOverStill(5), 48, 3).heldFor, 1);
        QCOMPARE(heldPartOf(pan(3, 0), 48, 0).heldFor, 1);
        QCOMPARE(heldPartOf(heldDisc(1, 0), 48, 3).heldFor, 1);
        QCOMPARE(heldPartOf(pan(0, 0), 48, 4).heldFor, 1);
    }

    void holdsAreLookedForInsideAMatteAlone() {
        // Cells 0 to 9 move in each frame, cells 100 to 105 in every second one, and half as far.
        constexpr std::size_t frames = 40;
        std::vector<CellChanges> changes(frames);
        std::vector<CellMask> inside(frames);
        for (std::size_t n = 0; n < frames; ++n) {
            for (std::size_t cell = 0; cell < 10; ++cell)
                changes[n][cell] = 90;
            for (std::size_t cell = 100; cell < 106; ++cell) {
                changes[n][cell] = n % 2 == 0 ? 45 : 1;
                inside[n].set(cell);
            }
        }
        QVERIFY(heldFrames(changes, {}, {.strongestOnly = true}).empty());
        const auto held = heldFrames(changes, {}, {.strongestOnly = true, .only = inside});
        QCOMPARE(held.size(), frames / 2);
        for (const FoundFrame& frame : held) {
            QVERIFY(frame.frame % 2 == 1);
            QVERIFY(frame.certainty > 0.8);
        }
    }
};

QTEST_APPLESS_MAIN(TestIrregularMotion)
#include "test_irregular_motion.moc"
