// The thread chart: scrubbing, zoom about the pointer, and 100,000 frames.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/chart/chart_places.h"
#include "app/chart/thread_chart.h"
#include "app/look/frame_shapes.h"
#include "app/look/theme.h"
#include "app/stage/frame_sentence.h"
#endif

#include <QSignalSpy>
#include <QTest>
#include <QWheelEvent>

#include <QSet>

using namespace yarngap;
using namespace yarngap::app;

namespace {

Timing quarter(std::int64_t frames) {
    return {.sourceRate = Rate(24, 1),
            .outputRate = Rate(24, 1),
            .from = 0,
            .to = frames - 1,
            .speed = Rational(1, 4)};
}

} // namespace

class TestThreadChart : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void scrubbingMovesThePlayhead() {
        Player player;
        ThreadChart chart(player);
        chart.resize(1280, 248);
        const Timing timing = quarter(96);
        chart.setPlan(std::make_shared<FramePlan>(makePlan(timing, Method::flow, 96)), timing);
        player.setRange(384, 24);
        chart.show();
        QVERIFY(QTest::qWaitForWindowExposed(&chart));
        QTest::mouseClick(&chart, Qt::LeftButton, {}, QPoint(static_cast<int>(chart.xOf(100)), 160));
        QCOMPARE(player.playhead(), 100);
        QTest::mousePress(&chart, Qt::LeftButton, {}, QPoint(static_cast<int>(chart.xOf(50)), 160));
        QTest::mouseMove(&chart, QPoint(static_cast<int>(chart.xOf(200)), 160));
        QCOMPARE(player.playhead(), 200);
        QTest::mouseRelease(&chart, Qt::LeftButton, {}, QPoint(5, 160)); // before the first frame
        QTest::mouseClick(&chart, Qt::LeftButton, {}, QPoint(2, 160));
        QCOMPARE(player.playhead(), 0);
    }

    void zoomKeepsTheFrameUnderThePointer() {
        Player player;
        ThreadChart chart(player);
        chart.resize(1280, 248);
        const Timing timing = quarter(96);
        chart.setPlan(std::make_shared<FramePlan>(makePlan(timing, Method::flow, 96)), timing);
        chart.show();
        const double before = chart.pixelsPerFrame();
        const double x = chart.xOf(180);
        for (int i = 0; i < 5; ++i) {
            QWheelEvent wheel(QPointF(x, 100), chart.mapToGlobal(QPointF(x, 100)), {}, {0, 120}, Qt::NoButton,
                              Qt::NoModifier, Qt::NoScrollPhase, false);
            QCoreApplication::sendEvent(&chart, &wheel);
        }
        QVERIFY(chart.pixelsPerFrame() > before * 2);
        QVERIFY(std::abs(chart.xOf(180) - x) < 1);
        chart.fit();
        QCOMPARE(chart.pixelsPerFrame(), before);
    }

    void thePlayheadDoesNotCoverTheSpeedItStandsOn() {
        Player player;
        ThreadChart chart(player);
        chart.resize(1280, 264);
        const Timing timing = quarter(96);
        chart.setPlan(std::make_shared<FramePlan>(makePlan(timing, Method::flow, 96)), timing);
        player.setRange(384, 24);
        chart.show();
        player.goTo(192); // in the middle, where the speed is written
        const QImage seen = chart.grab().toImage();
        const double y = chart.yOfSpeed(0.25);
        const int x = static_cast<int>(std::lround(chart.xOf(192)));
        const auto isLine = [&](int atY) {
            for (int by = -2; by <= 2; ++by)
                if (QColor(seen.pixel(x + by, atY)) == shades().indigo) return true;
            return false;
        };
        QVERIFY(isLine(static_cast<int>(y) + 20));
        for (int above = 6; above <= 14; ++above)
            QVERIFY2(!isLine(static_cast<int>(y) - above), qPrintable(QString::number(above)));
    }

    void aLaneOfDoubtsWouldLieBetweenOutputAndReady() {
        const chart::Places without = chart::placesIn(300);
        const chart::Places with = chart::placesIn(300, true);
        QCOMPARE(without.doubtHeight, 0.0);
        QVERIFY(with.outputY < with.doubtTop && with.doubtTop + with.doubtHeight < with.readyY);
        QVERIFY(with.sourceY + 30 < with.outputY); // threads keep room
        QCOMPARE(with.sourceY, without.sourceY);
        QCOMPARE(with.readyY, without.readyY);
    }

    void theShapesDiffer() {
        QSet<QByteArray> pictures;
        for (const FrameKind kind :
             {FrameKind::original, FrameKind::repeat, FrameKind::blend, FrameKind::flow, FrameKind::held}) {
            QImage image(24, 24, QImage::Format_Grayscale8); // without colour: the shape alone must tell
            image.fill(255);
            QPainter p(&image);
            drawFrameShape(p, kind, {12, 12}, 8);
            p.end();
            pictures.insert(
                QByteArray(reinterpret_cast<const char*>(image.constBits()), image.sizeInBytes()));
        }
        QCOMPARE(pictures.size(), qsizetype{5});
    }

    void methodsLookDifferentInTheChart() {
        Player player;
        ThreadChart chart(player);
        chart.resize(1280, 248);
        chart.show();
        const Timing timing = quarter(20);
        QSet<QByteArray> pictures;
        for (const Method method : {Method::sample, Method::blend, Method::flow}) {
            chart.setPlan(std::make_shared<FramePlan>(makePlan(timing, method, 20)), timing);
            const QImage image = chart.grab().toImage();
            pictures.insert(
                QByteArray(reinterpret_cast<const char*>(image.constBits()), image.sizeInBytes()));
        }
        QCOMPARE(pictures.size(), qsizetype{3});
    }

    void duplicatesAreHollowAndCutsStand() {
        Player player;
        ThreadChart chart(player);
        chart.resize(1280, 248);
        chart.show();
        Timing timing = quarter(20);
        timing.speed = 1;
        chart.setPlan(std::make_shared<FramePlan>(makePlan(timing, Method::flow, 20)), timing);
        const auto at = [&](double frame, int below) {
            return chart.grab().toImage().pixelColor(static_cast<int>(std::lround(chart.xOfSource(frame))),
                                                     static_cast<int>(chart.places().sourceY) + below);
        };
        QVERIFY(at(7, 0).lightness() < 80); // a filled disc
        const QColor before = at(11.5, 8);
        chart.setFindings({7}, {12});
        QVERIFY(at(7, 0).lightness() > 200);
        QVERIFY(at(6, 0).lightness() < 80);
        const QColor upright = at(11.5, 8);
        QVERIFY(upright.red() > upright.green() + 40);
        QVERIFY(before.red() < before.green() + 40);
    }

    void aHundredThousandFramesDraw() {
        Player player;
        ThreadChart chart(player);
        chart.resize(1280, 248);
        chart.show();
        const Timing timing = quarter(25000);
        chart.setPlan(std::make_shared<FramePlan>(makePlan(timing, Method::flow, 25000)), timing);
        player.setRange(100000, 24);
        const QImage image = chart.grab().toImage();
        QVERIFY(image.pixelColor(640, 150) != shades().cloth); // the ribbon is there
        QTest::mouseClick(&chart, Qt::LeftButton, {}, QPoint(static_cast<int>(chart.xOf(50000)), 160));
        QVERIFY(std::abs(player.playhead() - 50000) < 100);
    }

    void sentencesAreAsPromised() {
        const FramePlan flow = makePlan(quarter(96), Method::flow, 96);
        QCOMPARE(
            frameSentence(flow, flow.rows[143], 0.12),
            QStringLiteral(
                "Output 143 · position 35.75 · three quarters from 35 to 36 · optical flow · doubt 0.12"));
        QCOMPARE(frameSentence(flow, flow.rows[8], std::nullopt),
                 QStringLiteral("Output 8 · position 2.00 · original source frame 2"));
        Treatment blurred(Method::flow);
        blurred.settings.everywhere().inBetweens.synthesis.shutterAngle = 180;
        blurred.found.cuts = {2};
        const FramePlan cut = makePlan({.sourceRate = Rate(24, 1),
                                        .outputRate = Rate(24, 1),
                                        .from = 0,
                                        .to = 7,
                                        .speed = Rational(1, 2)},
                                       blurred, 8);
        QCOMPARE(frameSentence(cut, cut.rows[2], std::nullopt),
                 QStringLiteral(
                     "Output 2 · position 1.00 · source frame 1 through synthesis · optical flow · shutter "
                     "open for 0.25 source frames"));
        QCOMPARE(
            frameSentence(cut, cut.rows[5], std::nullopt),
            QStringLiteral(
                "Output 5 · position 2.50 · source frame 2 shown again · nothing is made across the cut"));
        QCOMPARE(frameSentence(flow, flow.rows[383], std::nullopt),
                 QStringLiteral("Output 383 · position 95.75 · past the end, source frame 95 held"));
        const FramePlan sample = makePlan(quarter(96), Method::sample, 96);
        QCOMPARE(frameSentence(sample, sample.rows[1], std::nullopt),
                 QStringLiteral("Output 1 · position 0.25 · source frame 0 shown again"));
        const FramePlan blend = makePlan(quarter(96), Method::blend, 96);
        QCOMPARE(frameSentence(blend, blend.rows[2], std::nullopt),
                 QStringLiteral("Output 2 · position 0.50 · half way from 0 to 1 · frame blending"));
    }
};

QTEST_MAIN(TestThreadChart)
#include "test_thread_chart.moc"
