// Scan, cadence, breaks, repeats and cuts, against a table of drawn cases whose truth is known.

#include "core/inspection/shot_findings.h"
#include "support/film.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 144;
constexpr std::int64_t frames = 60;

struct Case {
    QString name;
    Scenery scenery;
    std::function<FieldMoments(std::int64_t)> moments;
    double grain = 0;
};

ShotFindings inspect(const Case& c, std::int64_t count = frames) {
    FrameMeter meter;
    std::vector<FrameMetrics> metrics;
    for (std::int64_t n = 0; n < count; ++n) {
        const FieldMoments at = c.moments(n);
        metrics.push_back(meter.measure(drawFields(c.scenery, at.top, at.bottom, width, height, c.grain)));
    }
    return findingsFrom(metrics);
}

struct Content {
    const char* name;
    Scenery scenery;
    double grain;
};

std::vector<Content> contents() {
    return {{"pan", pan(3, 0), 0},
            {"slanted pan with grain", pan(2.5, 1.2, 4), 4},
            {"disc over still ground", discOverStill(5), 0},
            {"disc with grain", discOverStill(7, 26), 3}};
}

FieldMoments whole(double t) {
    return {t, t};
}

} // namespace

class TestCadence : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void progressiveIsProgressive_data() {
        QTest::addColumn<int>("content");
        QTest::addColumn<double>("speed");
        for (std::size_t i = 0; i < contents().size(); ++i)
            for (const double speed : {0.3, 1.0, 2.0})
                QTest::addRow("%s x %.1f", contents()[i].name, speed) << static_cast<int>(i) << speed;
    }
    void progressiveIsProgressive() {
        QFETCH(int, content);
        QFETCH(double, speed);
        const Content c = contents()[static_cast<std::size_t>(content)];
        const auto f =
            inspect({{}, c.scenery, [=](auto n) { return whole(static_cast<double>(n) * speed); }, c.grain});
        QCOMPARE(f.kind(), CadenceKind::progressive);
        QCOMPARE(f.cadence.size(), std::size_t{1});
        QVERIFY(f.breaks().empty());
        QVERIFY2(f.cuts.empty(), "a cut was invented");
        QVERIFY2(f.repeats.frames.empty(), "a repeat was invented");
    }

    void interlacedIsFoundWithItsOrder_data() {
        QTest::addColumn<int>("content");
        QTest::addColumn<bool>("topFirst");
        for (std::size_t i = 0; i < contents().size(); ++i)
            for (const bool top : {true, false})
                QTest::addRow("%s, %s", contents()[i].name, top ? "top" : "bottom")
                    << static_cast<int>(i) << top;
    }
    void interlacedIsFoundWithItsOrder() {
        QFETCH(int, content);
        QFETCH(bool, topFirst);
        const Content c = contents()[static_cast<std::size_t>(content)];
        const auto f = inspect({{},
                                c.scenery,
                                [=](auto n) {
                                    const auto t = static_cast<double>(n);
                                    return topFirst ? FieldMoments{t, t + 0.5} : FieldMoments{t + 0.5, t};
                                },
                                c.grain});
        QCOMPARE(f.kind(), CadenceKind::interlaced);
        QCOMPARE(f.topFirst(), topFirst);
        QCOMPARE(f.cadence.size(), std::size_t{1});
    }

    void pulldownIsFoundWithItsPhase_data() {
        QTest::addColumn<int>("content");
        QTest::addColumn<bool>("topFirst");
        QTest::addColumn<int>("phase");
        QTest::addColumn<bool>("advanced");
        for (std::size_t i = 0; i < contents().size(); ++i)
            for (int k = 0; k < 10; ++k)
                QTest::addRow("%s, %s, phase %d%s", contents()[i].name, (k + i) % 2 ? "top" : "bottom", k % 5,
                              k >= 5 ? ", 2:3:3:2" : "")
                    << static_cast<int>(i) << ((k + static_cast<int>(i)) % 2 == 1) << k % 5 << (k >= 5);
    }
    void pulldownIsFoundWithItsPhase() {
        QFETCH(int, content);
        QFETCH(bool, topFirst);
        QFETCH(int, phase);
        QFETCH(bool, advanced);
        const Content c = contents()[static_cast<std::size_t>(content)];
        const auto f =
            inspect({{},
                     c.scenery,
                     [=](auto n) {
                         return advanced ? pulldown2332(n, phase, topFirst) : pulldown32(n, phase, topFirst);
                     },
                     c.grain});
        QCOMPARE(f.kind(), advanced ? CadenceKind::pulldown2332 : CadenceKind::pulldown32);
        QCOMPARE(f.topFirst(), topFirst);
        QCOMPARE(f.cadence.size(), std::size_t{1});
        QCOMPARE(f.cadence.front().phase, phase);
        QVERIFY(f.breaks().empty());
    }

    void aBreakIsFoundAtItsFrame_data() {
        QTest::addColumn<int>("at");
        QTest::addColumn<int>("after");
        for (const int at : {23, 30, 37})
            for (const int after : {1, 2, 3})
                QTest::addRow("at %d, %d on", at, after) << at << after;
    }
    void aBreakIsFoundAtItsFrame() {
        QFETCH(int, at);
        QFETCH(int, after);
        const auto f =
            inspect({{}, pan(3, 1), [=](auto n) { return pulldown32(n < at ? n : n + after, 0, true); }, 2});
        QCOMPARE(f.kind(), CadenceKind::pulldown32);
        const auto breaks = f.breaks();
        QCOMPARE(breaks.size(), std::size_t{1});
        // Frames whole in both phases fit either side; the break may lie anywhere among them.
        QVERIFY2(std::abs(breaks.front() - at) <= 2, qPrintable(QString::number(breaks.front())));
        QCOMPARE(f.cadence.back().phase, static_cast<int>((breaks.front() + after) % 5));
    }

    void thePhaseIsKeptThroughAStillStretch() {
        const auto f = inspect({{},
                                pan(3, 0),
                                [](auto n) {
                                    FieldMoments m = pulldown32(n, 3, true);
                                    for (double* t : {&m.top, &m.bottom})
                                        *t = std::min(*t, 16.0) + std::max(0.0, *t - 28.0);
                                    return m;
                                },
                                2});
        QCOMPARE(f.cadence.size(), std::size_t{1});
        QCOMPARE(f.cadence.front().phase, 3);
    }

    void shiftedFieldsAreFound_data() {
        QTest::addColumn<bool>("topFirst");
        QTest::newRow("top") << true;
        QTest::newRow("bottom") << false;
    }
    void shiftedFieldsAreFound() {
        QFETCH(bool, topFirst);
        const auto f = inspect({{}, pan(3, 1), [=](auto n) {
                                    const auto t = static_cast<double>(n);
                                    return topFirst ? FieldMoments{t, t + 1} : FieldMoments{t + 1, t};
                                }});
        QCOMPARE(f.kind(), CadenceKind::shifted22);
        QCOMPARE(f.topFirst(), topFirst);
    }

    void aSmallSubjectUnderNoiseIsToldAsItIs_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("progressive") << 0;
        QTest::newRow("interlaced") << 1;
        QTest::newRow("3:2") << 2;
    }
    void aSmallSubjectUnderNoiseIsToldAsItIs() {
        // One disc of 20 pixels walks through a still picture with grain, as people do before a far camera.
        QFETCH(int, kind);
        const auto moments = [=](std::int64_t n) -> FieldMoments {
            const auto t = static_cast<double>(n);
            return kind == 0 ? whole(t) : kind == 1 ? FieldMoments{t, t + 0.5} : pulldown32(n, 1, true);
        };
        const auto f = inspect({{}, discOverStill(2, 10), moments, 5}, 90);
        QVERIFY(f.decided());
        const std::array<CadenceKind, 3> kinds{CadenceKind::progressive, CadenceKind::interlaced,
                                               CadenceKind::pulldown32};
        QCOMPARE(f.kind(), kinds.at(static_cast<std::size_t>(kind)));
        QCOMPARE(f.cadence.size(), std::size_t{1});
    }

    void fieldsOfFineTextureAreNotInvented() {
        // Structures of two lines: the lines between tell nothing about a line, whatever moves.
        const Scenery fine = [](double x, double y, double t) { return texture(x - 2 * t, y - t, 2.2, 11); };
        const auto f = inspect({{}, fine, [](auto n) { return whole(static_cast<double>(n)); }, 3});
        QVERIFY(!f.decided() || f.kind() == CadenceKind::progressive);
        QCOMPARE(f.cadence.size(), std::size_t{1});
    }

    void aFadeTellsNothingWrong() {
        // Light that falls evenly: each field is darker than the one before, as in progressive film too.
        const Scenery fade = [](double x, double y, double t) { return texture(x, y, 9, 2) * (1 - t / 80); };
        const auto f = inspect({{}, fade, [](auto n) { return whole(static_cast<double>(n)); }, 3});
        QVERIFY(!f.decided() || f.kind() == CadenceKind::progressive);
    }

    void whatLiesBeforeABreakInStillPicturesIsNotClaimed() {
        // Noise alone for 30 frames, then film in pulldown.
        const auto f = inspect({{},
                                pan(3, 0),
                                [](auto n) {
                                    FieldMoments m = pulldown32(n, 2, true);
                                    for (double* t : {&m.top, &m.bottom})
                                        *t = std::max(0.0, *t - 24);
                                    return m;
                                },
                                3},
                               90);
        QCOMPARE(f.kind(), CadenceKind::pulldown32);
        for (const CadenceRun& run : f.cadence)
            if (run.last < 30) QCOMPARE(run.evidence, 0.0);
        QCOMPARE(f.cadence.back().phase, static_cast<int>((f.cadence.back().first + 2) % 5));
    }

    void stillPicturesTellNothing() {
        const auto f = inspect({{}, pan(0, 0), [](auto n) { return whole(static_cast<double>(n)); }, 3});
        QVERIFY(!f.decided());
        QVERIFY(f.repeats.frames.empty());
        QVERIFY(f.cuts.empty());
    }

    void drawnOnTwosAndThrees_data() {
        QTest::addColumn<int>("held");
        QTest::addColumn<int>("content");
        for (const int held : {2, 3})
            for (std::size_t i = 0; i < contents().size(); ++i)
                QTest::addRow("%s on %d", contents()[i].name, held) << held << static_cast<int>(i);
    }
    void drawnOnTwosAndThrees() {
        QFETCH(int, held);
        QFETCH(int, content);
        const Content c = contents()[static_cast<std::size_t>(content)];
        const auto f = inspect({{},
                                c.scenery,
                                [=](auto n) {
                                    const std::int64_t drawing = n / held;
                                    return whole(static_cast<double>(drawing));
                                },
                                c.grain});
        QCOMPARE(f.repeats.heldFor, held);
        for (std::int64_t n = 1; n < frames; ++n) {
            const bool repeated =
                std::find(f.repeats.frames.begin(), f.repeats.frames.end(), n) != f.repeats.frames.end();
            QCOMPARE(repeated, n % held != 0);
        }
        QCOMPARE(f.kind(), CadenceKind::progressive);
    }

    void singleRepeatsAreFound() {
        const auto f = inspect({{},
                                pan(2, 1),
                                [](auto n) {
                                    return whole(static_cast<double>(n < 20 ? n : n < 41 ? n - 1 : n - 2));
                                },
                                2});
        QCOMPARE(f.repeats.frames, (std::vector<std::int64_t>{20, 41}));
        QCOMPARE(f.repeats.heldFor, 1);
    }

    void cutsAreFoundAndFlashesAreNot() {
        const Scenery a = pan(2, 0, 1);
        const Scenery b = [](double x, double y, double t) {
            return 0.7 * texture(x + 2 * t, y, 30, 8) + 60;
        };
        const Scenery film = [&](double x, double y, double t) {
            const double light = t == 12 ? 90 : 0; // a photographer's flash
            return std::min(255.0, (t < 25 || t >= 44 ? a(x, y, t) : b(x, y, t)) + light);
        };
        const auto f = inspect({{}, film, [](auto n) { return whole(static_cast<double>(n)); }, 2});
        QCOMPARE(f.cuts, (std::vector<std::int64_t>{25, 44}));
    }
};

QTEST_APPLESS_MAIN(TestCadence)
#include "test_cadence.moc"
