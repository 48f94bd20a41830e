// How far a shot can be slowed: the rule, and what is measured for it.

#include "core/inspection/suitability.h"
#include "support/drawn_shot.h"
#include "support/film.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

namespace {

/// `count` frames of a scenery.
DrawnShot drawn(const Scenery& scenery, std::int64_t count, const Rate& rate = Rate(24, 1), int width = 320) {
    return {count,
            [=](std::int64_t n) {
                const auto t = static_cast<double>(n);
                return drawFields(scenery, t, t, width, 144);
            },
            "drawn", rate};
}

Suitability assess(const Scenery& scenery, std::int64_t count = 40, const Rate& rate = Rate(24, 1),
                   int width = 320) {
    DrawnShot frames = drawn(scenery, count, rate, width);
    return assessSuitability(frames, {});
}

} // namespace

class TestSuitability : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void theAdviceFollowsTheRule_data() {
        QTest::addColumn<double>("fps");
        QTest::addColumn<double>("visible");
        QTest::addColumn<double>("speed");
        QTest::newRow("24, ordinary") << 24.0 << 0.005 << 0.6;
        QTest::newRow("29.97, ordinary") << 29.97 << 0.005 << 0.6;
        QTest::newRow("50, ordinary") << 50.0 << 0.005 << 0.4;
        QTest::newRow("60, ordinary") << 60.0 << 0.005 << 0.4;
        QTest::newRow("120, ordinary") << 120.0 << 0.005 << 0.2;
        QTest::newRow("24, easy") << 24.0 << 0.0005 << 0.3;
        QTest::newRow("60, easy") << 60.0 << 0.0005 << 0.2;
        QTest::newRow("24, hard") << 24.0 << 0.02 << 0.9;
        QTest::newRow("24, hopeless") << 24.0 << 0.1 << 1.0;
        QTest::newRow("60, hopeless") << 60.0 << 0.1 << 0.75; // 72 %, in steps of five
    }
    void theAdviceFollowsTheRule() {
        QFETCH(double, fps);
        QFETCH(double, visible);
        QFETCH(double, speed);
        const Rate rate(static_cast<std::int64_t>(std::lround(fps * 1000)), 1000);
        QVERIFY2(std::abs(advisedSpeed(rate, visible) - speed) < 1e-9,
                 qPrintable(QString::number(advisedSpeed(rate, visible))));
    }

    void aSlowPanIsEasyAndItsMotionKnown() {
        const Suitability s =
            assess([](double x, double y, double t) { return texture(x - 2 * t, y, 24, 1); });
        QCOMPARE(s.placesTried, 12);
        QCOMPARE(s.placesMoving, 12);
        QVERIFY2(std::abs(s.typicalMotion - 2) < 0.3, qPrintable(QString::number(s.typicalMotion)));
        QVERIFY(s.visible < 0.01);
        QVERIFY(QString::fromStdString(s.sentence()).startsWith(QStringLiteral("Holds down to about ")));
    }

    void motionIsInPixelsOfTheFullPicture() {
        const Suitability s = assess(
            [](double x, double y, double t) { return texture(x - 8 * t, y, 60, 1); }, 14, Rate(24, 1), 1280);
        QVERIFY2(std::abs(s.typicalMotion - 8) < 1, qPrintable(QString::number(s.typicalMotion)));
    }

    void whatIsHiddenAndUncoveredIsHarder() {
        const Suitability easy = assess(discOverStill(1));
        const Suitability hard = assess(discOverStill(16, 40));
        QVERIFY(hard.visible > easy.visible);
        QVERIFY(hard.lowestSpeed >= easy.lowestSpeed);
    }

    void largeMotionIsRemarkedOn() {
        const Suitability s =
            assess([](double x, double y, double t) { return texture(x - 14 * t, y, 70, 1); });
        QVERIFY2(std::abs(s.largestMotion - 14) < 2, qPrintable(QString::number(s.largestMotion)));
        QVERIFY(std::abs(s.largestShare - s.largestMotion / 320) < 1e-9);
        QVERIFY(!s.remarks.empty());
        QVERIFY(QString::fromStdString(s.remarks.front()).contains(QStringLiteral("largest motion is 1")));
    }

    void stillAndShortShotsAreToldAsSuch() {
        const Suitability still = assess(pan(0, 0));
        QCOMPARE(still.placesMoving, 0);
        QCOMPARE(QString::fromStdString(still.sentence()),
                 QStringLiteral("Hardly anything moves; any speed will do."));
        QVERIFY(
            QString::fromStdString(assess(pan(2, 0), 2).sentence()).contains(QStringLiteral("too short")));
        QCOMPARE(assess(pan(2, 0), 3).placesTried, 1);
    }

    void remarksFollowWhatIsMeasured_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<QString>("remark");
        QTest::newRow("shaking camera") << 0 << QStringLiteral("camera shakes");
        QTest::newRow("dark") << 1 << QStringLiteral("picture is dark");
        QTest::newRow("burnt out") << 2 << QStringLiteral("pure black or white");
        QTest::newRow("repeating texture") << 3 << QStringLiteral("Texture repeats every 16 pixels");
        QTest::newRow("grain") << 4 << QStringLiteral("Grain of about");
        QTest::newRow("soft") << 5 << QStringLiteral("Edges are soft");
    }
    void remarksFollowWhatIsMeasured() {
        QFETCH(int, kind);
        QFETCH(QString, remark);
        const auto about = [&](const Suitability& s) {
            return std::count_if(s.remarks.begin(), s.remarks.end(), [&](const std::string& r) {
                return QString::fromStdString(r).contains(remark);
            });
        };
        const std::vector<Scenery> sceneries{
            [](double x, double y, double t) {
                return texture(x - 6 * hashed(std::lround(t), 1, 2), y - 6 * hashed(std::lround(t), 2, 2), 9,
                               1);
            },
            [](double x, double y, double t) { return texture(x - 2 * t, y, 9, 1) / 6; },
            [](double x, double y, double t) { return y < 40 ? 255.0 : texture(x - 2 * t, y, 9, 1); },
            [](double x, double y, double t) {
                return texture(std::fmod(x + 700 - 6 * t, 16.0) + 3, std::fmod(y, 16.0) + 3, 4, 5);
            },
            [](double x, double y, double t) {
                const auto grain = hashed(std::lround(x), std::lround(y), std::lround(100 * t));
                return texture(x - 2 * t, y, 40, 1) + 20 * (grain - 0.5);
            },
            [](double x, double y, double t) { return texture(x - 2 * t, y, 20, 1); }};
        QCOMPARE(about(assess(sceneries.at(static_cast<std::size_t>(kind)), 16)), 1);
        QCOMPARE(about(assess([](double x, double y, double t) { return texture(x - 2 * t, y, 7, 1); }, 16)),
                 0);
    }

    void flickerIsRemarkedOn() {
        DrawnShot frames = drawn(pan(2, 0), 20);
        ShotFindings findings;
        findings.flicker = 2;
        QVERIFY(QString::fromStdString(assessSuitability(frames, findings).remarks.at(0))
                    .contains(QStringLiteral("flickers by about 2.0 steps")));
    }

    void remarksSayWhatToDo() {
        DrawnShot frames = drawn(pan(2, 0), 20);
        ShotFindings findings;
        findings.cuts = {10};
        findings.repeats.heldFor = 2;
        const Suitability s = assessSuitability(frames, findings);
        QCOMPARE(s.remarks.size(), std::size_t{2});
        QVERIFY(QString::fromStdString(s.remarks[0]).contains(QStringLiteral("trim to one shot")));
    }
};

QTEST_APPLESS_MAIN(TestSuitability)
#include "test_suitability.moc"
