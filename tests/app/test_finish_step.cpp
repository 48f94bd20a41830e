// The step Finish in a real window: the frame, a thing held still by the mouse and by keys, a shaken camera
// calmed, edges hidden, tone, smears across a cut, and the frame seen without.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/drawn_clip.h"
#include "support/film.h"
#include "support/own_settings.h"
#include "support/pictures.h"
#include "support/shot_window.h"
#endif

#include <QAbstractButton>
#include <QCheckBox>
#include <QLabel>
#include <QSignalSpy>
#include <QTest>

#include <cmath>
#include <numbers>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 180;
constexpr int frames = 20;

/// The middle of a thing that goes and turns before a ground that shakes by up to 3 pixels, 3 times a second.
PicturePoint middleAt(double time) {
    return {120 + 3 * time, 90 + 8 * std::sin(0.4 * time)};
}
double turnAt(double time) {
    return 0.03 * time;
}
double shakeAt(double time) {
    return 3 * std::sin(2 * std::numbers::pi * 3 * time / 24);
}

Image drawn(double time) {
    const PicturePoint c = middleAt(time);
    const double re = std::cos(turnAt(time));
    const double im = std::sin(turnAt(time));
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [&](int p, int x, int y) {
        if (p > 0) return 128.0;
        const double dx = x + 0.5 - c.x;
        const double dy = y + 0.5 - c.y;
        if (std::hypot(dx, dy) < 34) {
            const double u = re * dx + im * dy;
            const double v = re * dy - im * dx;
            return 150 + 40 * std::sin(u / 3.1) * std::cos(v / 3.9) + 30 * std::cos((u + v) / 5.3);
        }
        return 30 + 0.4 * texture(x - shakeAt(time), y, 10, 5);
    });
}

} // namespace

class TestFinishStep : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    [[nodiscard]] const Finish& finish() const { return window_->document().current()->finish; }
    GapView& view() { return window_->gapView(); }
    void click(const char* button) {
        auto* found = window_.find<QAbstractButton>(button);
        QTRY_VERIFY(found->height() > 4); // a row that opened just now is laid out soon
        QVERIFY2(found->isEnabled() && found->isVisible(), button);
        QTest::mouseClick(found, Qt::LeftButton);
    }
    void openRow(const char* header) {
        if (!window_.find<QAbstractButton>(header)->isChecked()) click(header);
    }
    void ready() {
        QTRY_VERIFY_WITH_TIMEOUT(
            [&] {
                const auto picture = window_->preview().picture(window_->player().playhead());
                return picture && !picture->draft;
            }(),
            60'000);
    }
    QImage shown() {
        ready();
        return window_->preview().picture(window_->player().playhead())->image;
    }
    void waitForWork() { QTRY_VERIFY_WITH_TIMEOUT(window_->finishWork().what().isEmpty(), 60'000); }
    QPoint onStage(const PicturePoint& p) {
        const QRectF picture = view().stage().placeOfPicture();
        return QPointF(picture.left() + p.x / width * picture.width(),
                       picture.top() + p.y / height * picture.height())
            .toPoint();
    }
    QString outcome() { return window_.find<StepCard>("finishStep")->outcome(); }
    void undo() { QTest::keyClick(window_.operator->(), Qt::Key_Z, Qt::ControlModifier); }
    /// Mean difference of two pictures in a part of them, in shares of their size.
    static double apart(const QImage& a, const QImage& b, const QRectF& part) {
        double sum = 0;
        int count = 0;
        for (int y = static_cast<int>(part.top() * a.height()); y < part.bottom() * a.height(); ++y)
            for (int x = static_cast<int>(part.left() * a.width()); x < part.right() * a.width();
                 ++x, ++count)
                sum += std::abs(qGray(a.pixel(x, y)) - qGray(b.pixel(x, y)));
        return sum / std::max(1, count);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        drawnClip(clips_, QStringLiteral("turning.mkv"), frames, drawn);
    }
    void init() {
        window_.open(clips_.path(QStringLiteral("turning.mkv")));
        QTest::mouseClick(window_.find<StepCard>("finishStep")->header(), Qt::LeftButton);
        window_->player().goTo(0);
        ready();
    }
    void cleanup() { window_.close(); }

    void theFrameIsChosenAndTold() {
        QCOMPARE(outcome(), QStringLiteral("nothing set"));
        openRow("frameRowHeader");
        window_.choose("frameSizes", 9); // 1080 x 1080
        QCOMPARE(finish().frame.size->width, 1080);
        QCOMPARE(outcome(), QStringLiteral("1080×1080"));
        const QImage picture = shown();
        QVERIFY(std::abs(picture.width() - picture.height()) <= 1);
        QVERIFY(qGray(picture.pixel(picture.width() / 2, picture.height() / 10)) < 3); // a bar
        QVERIFY(qGray(picture.pixel(picture.width() / 2, picture.height() / 2)) > 20);
        const QRectF place = view().stage().placeOfPicture();
        QVERIFY(std::abs(place.width() - place.height()) < 1);
        window_.choose("frameFit", 1);
        QVERIFY(qGray(shown().pixel(shown().width() / 2, shown().height() / 10)) > 20);
        window_.type("frameSize", QStringLiteral("641x361"));
        QCOMPARE(finish().frame.size->width, 641);
        QVERIFY(window_.find<ValueField>("frameSize")->text() == QStringLiteral("642×362")); // of 4:2:0
        window_.type("frameSize", QStringLiteral("0x12"));
        QCOMPARE(finish().frame.size->width, 641);
        undo();
        undo();
        undo();
        QVERIFY(!finish().frame.size);
    }

    void thePictureIsPlacedByMouseAndKeys() {
        openRow("frameRowHeader");
        click("placeFrame");
        QVERIFY(view().editsPlace());
        auto* overlay = window_.find<PlaceOverlay>("placeOverlay");
        const QPoint from = onStage({160, 90});
        const QPoint to = onStage({192, 108});
        QTest::mousePress(overlay, Qt::LeftButton, {}, from);
        QTest::mouseMove(overlay, (from + to) / 2);
        QTest::mouseMove(overlay, to);
        QTest::mouseRelease(overlay, Qt::LeftButton, {}, to);
        QCOMPARE(finish().places.size(), std::size_t{1});
        QVERIFY(std::abs(finish().places[0].x - 0.1) < 0.005 && std::abs(finish().places[0].y - 0.1) < 0.005);
        const double x = finish().places[0].x;
        QTest::keyClick(overlay, Qt::Key_Right, Qt::ControlModifier);
        QVERIFY(std::abs(finish().places[0].x - x - 1.0 / width) < 1e-9);
        QTest::keyClick(overlay, Qt::Key_Plus);
        QVERIFY(std::abs(finish().places[0].scale - 1.005) < 1e-9);
        QTest::keyClick(overlay, Qt::Key_Escape);
        QVERIFY(!view().editsPlace());
        QVERIFY(!window_.find<QAbstractButton>("placeFrame")->isChecked());
        // Another key at another frame: then the place goes from one to the other.
        window_->player().goTo(40);
        click("placeKey");
        window_.type("placeScale", QStringLiteral("150 %"));
        QCOMPARE(finish().places.size(), std::size_t{2});
        QCOMPARE(finish().places[1].at, Rational(10));
        window_->player().goTo(20);
        QTRY_VERIFY(window_.find<ValueField>("placeScale")
                        ->text()
                        .startsWith(QStringLiteral("12"))); // half way by ratio
        click("resetPlace");
        QVERIFY(finish().places.empty());
    }

    void aThingThatTurnsIsHeldByTheMouse() {
        openRow("holdRowHeader");
        click("chooseHold");
        QVERIFY(view().editsHold());
        auto* overlay = window_.find<HoldOverlay>("holdOverlay");
        QTest::mouseClick(overlay, Qt::LeftButton, {}, onStage(middleAt(0)));
        waitForWork();
        QCOMPARE(finish().hold.path.size(), static_cast<std::size_t>(frames));
        const auto offAt = [&](const FollowedPath& path, std::int64_t n, const PicturePoint& start) {
            const PicturePoint a = middleAt(0);
            const PicturePoint b = middleAt(static_cast<double>(n));
            const double re = std::cos(turnAt(static_cast<double>(n)));
            const double im = std::sin(turnAt(static_cast<double>(n)));
            const PicturePoint d{start.x - a.x, start.y - a.y};
            const FollowedPoint* p = pointOf(path, n);
            return p ? std::hypot(p->at.x - b.x - re * d.x + im * d.y, p->at.y - b.y - im * d.x - re * d.y)
                     : 1e9;
        };
        const PicturePoint start = finish().hold.path.front().at;
        QVERIFY2(offAt(finish().hold.path, 19, start) < 0.2,
                 qPrintable(QString::number(offAt(finish().hold.path, 19, start))));
        // Its turn too.
        click("chooseSecond");
        overlay = window_.find<HoldOverlay>("holdOverlay");
        QTest::mouseClick(overlay, Qt::LeftButton, {}, onStage({middleAt(0).x + 20, middleAt(0).y}));
        waitForWork();
        QCOMPARE(finish().hold.second.size(), static_cast<std::size_t>(frames));
        QTest::keyClick(overlay, Qt::Key_Escape);
        QVERIFY(!view().editsHold());
        QCOMPARE(outcome(), QStringLiteral("held at two points"));
        // What is seen of it stands, in source frames and in made ones.
        window_->player().goTo(0);
        const QImage first = shown();
        const QRectF around((middleAt(0).x - 16) / width, (middleAt(0).y - 16) / height, 32.0 / width,
                            32.0 / height);
        for (const int output : {28, 58}) {
            window_->player().goTo(output);
            QVERIFY2(apart(shown(), first, around) < 6,
                     qPrintable(QString::number(apart(shown(), first, around))));
        }
        // Without, while a key is held.
        QTest::keyPress(window_.operator->(), Qt::Key_U);
        QTRY_VERIFY_WITH_TIMEOUT(
            view().stage().showsInstead() || (view().stage().grab(), view().stage().showsInstead()), 30'000);
        QTest::keyRelease(window_.operator->(), Qt::Key_U);
        QVERIFY(!view().stage().isHeldInstead());
        // In the middle, and by a part.
        window_.choose("holdAt", 1);
        window_.type("holdShare", QStringLiteral("50 %"));
        QCOMPARE(finish().hold.share, 50);
        QVERIFY(outcome().contains(QStringLiteral("50 %")));
        click("removeHold");
        QVERIFY(finish().hold.path.empty());
    }

    void aPointIsChosenAndPutByKeys() {
        openRow("holdRowHeader");
        click("chooseHold");
        auto* overlay = window_.find<HoldOverlay>("holdOverlay");
        overlay->setFocus();
        // The cross begins in the middle: 40 to the left is the thing.
        for (int i = 0; i < 4; ++i)
            QTest::keyClick(overlay, Qt::Key_Left, Qt::ControlModifier | Qt::ShiftModifier);
        QTest::keyClick(overlay, Qt::Key_Return);
        waitForWork();
        QVERIFY((finish().hold.path.front().at == PicturePoint{120, 90}));
        QCOMPARE(finish().hold.path.size(), static_cast<std::size_t>(frames));
        // Another frame, where it is put three pixels off by hand: it is followed again from there.
        window_->player().goTo(40);
        const PicturePoint before = pointOf(finish().hold.path, 10)->at;
        overlay->setFocus();
        for (int i = 0; i < 3; ++i)
            QTest::keyClick(overlay, Qt::Key_Down, Qt::ControlModifier);
        QTest::keyClick(overlay, Qt::Key_Return);
        waitForWork();
        const FollowedPoint* put = pointOf(finish().hold.path, 10);
        QVERIFY(put->isPut && std::abs(put->at.y - before.y - 3) < 1e-6);
        QVERIFY(std::abs(pointOf(finish().hold.path, 12)->at.y - (middleAt(12).y + 3)) < 1.5);
        QVERIFY((finish().hold.path.front().at == PicturePoint{120, 90})); // what was put stays
    }

    void betweenSourceFramesNoPointIsChosen() {
        openRow("holdRowHeader");
        window_->player().goTo(9);
        click("chooseHold");
        QCOMPARE(window_->player().playhead() % 4, qint64{0}); // it goes to a source frame by itself
        window_->player().goTo(9);
        auto* overlay = window_.find<HoldOverlay>("holdOverlay");
        QVERIFY(overlay->hint().contains(QStringLiteral("between two source frames")));
        QTest::mouseClick(overlay, Qt::LeftButton, {}, onStage({120, 90}));
        QVERIFY(window_->finishWork().what().isEmpty());
    }

    void nothingToFollowIsSaid() {
        openRow("holdRowHeader");
        click("chooseHold");
        QSignalSpy failed(&window_->finishWork(), &FinishWork::failed);
        window_->finishWork().follow({.frame = 0, .at = {-500, -500}, .reach = 10, .first = 0, .last = 3},
                                     [](const FollowReport&) { QFAIL("It was followed."); });
        QTRY_COMPARE_WITH_TIMEOUT(failed.count(), 1, 30'000);
        QVERIFY(failed[0][0].toString().contains(QStringLiteral("nothing to follow")));
    }

    void aShakenCameraIsCalmedAndItsEdgesHidden() {
        openRow("calmRowHeader");
        window_.choose("calmBy", 1);
        QVERIFY(outcome().contains(QStringLiteral("not measured yet")));
        waitForWork();
        QVERIFY(outcome().contains(QStringLiteral("calmed")));
        QCOMPARE(finish().calm.path.size(), static_cast<std::size_t>(frames));
        window_.type("calmSeconds", QStringLiteral("0.4 s"));
        QCOMPARE(finish().calm.seconds, 0.4);
        // The ground stands: two frames between which it was shaken most.
        const double from = 2;
        const double to = 6;
        QVERIFY(std::abs(shakeAt(from) - shakeAt(to)) > 5);
        window_->player().goTo(static_cast<qint64>(4 * from));
        const QImage a = shown();
        window_->player().goTo(static_cast<qint64>(4 * to));
        const QImage b = shown();
        const QRectF ground(0.7, 0.2, 0.2, 0.6);
        const double left = apart(a, b, ground);
        window_.choose("calmBy", 0);
        window_->player().goTo(static_cast<qint64>(4 * from));
        const QImage c = shown();
        window_->player().goTo(static_cast<qint64>(4 * to));
        const double was = apart(c, shown(), ground);
        QVERIFY2(left < was / 3, qPrintable(QStringLiteral("%1 of %2").arg(left).arg(was)));
        window_.choose("calmBy", 1);
        openRow("edgesRowHeader");
        click("hideEdges");
        waitForWork();
        QVERIFY2(finish().hideEdges.scale > 1.005 && finish().hideEdges.scale < 1.1,
                 qPrintable(QString::number(finish().hideEdges.scale)));
        QVERIFY(outcome().contains(QStringLiteral("scaled 1.0")));
        click("showEdges");
        QCOMPARE(finish().hideEdges.scale, 1.0);
    }

    void toneIsSetByFieldsAndByTheCurve() {
        openRow("toneRowHeader");
        const double before = qGray(shown().pixel(shown().width() / 8, shown().height() / 8));
        window_.type("toneGamma", QStringLiteral("2"));
        QCOMPARE(finish().tones.front().gamma, 2.0);
        QTRY_VERIFY(qGray(shown().pixel(shown().width() / 8, shown().height() / 8)) > before + 20);
        QTRY_VERIFY(window_.find<QLabel>("toneClipped")->text().startsWith(QStringLiteral("Clipped: black")));
        auto* curve = window_.find<CurveField>("toneCurve");
        const QPoint middle = curve->placeOf({0.5, 0.5}).toPoint();
        const QPoint lower = curve->placeOf({0.5, 0.25}).toPoint();
        QTest::mousePress(curve, Qt::LeftButton, {}, middle);
        QTest::mouseMove(curve, lower);
        QTest::mouseRelease(curve, Qt::LeftButton, {}, lower);
        const auto points = finish().tones.front().curve;
        QCOMPARE(points.size(), std::size_t{3});
        QVERIFY(std::abs(points[1].y - 0.25) < 0.02);
        // It cannot be folded.
        const QPoint below = curve->placeOf({0.5, -0.5}).toPoint();
        QTest::mousePress(curve, Qt::LeftButton, {}, lower);
        QTest::mouseMove(curve, below);
        QTest::mouseRelease(curve, Qt::LeftButton, {}, below);
        QVERIFY(finish().tones.front().curve[1].y >= 0);
        curve->setFocus();
        QTest::keyClick(curve, Qt::Key_PageUp);
        QTest::keyClick(curve, Qt::Key_PageDown);
        QTest::keyClick(curve, Qt::Key_Right);
        QTest::keyClick(curve, Qt::Key_Delete);
        QVERIFY(finish().tones.front().curve.size() < 3);
        click("resetTone");
        QVERIFY(finish().tones.empty());
    }

    void textureIsSet() {
        openRow("textureRowHeader");
        window_.type("soften", QStringLiteral("80 %"));
        window_.type("softenRadius", QStringLiteral("4 px"));
        window_.choose("grainKind", 2);
        waitForWork();
        QVERIFY(!finish().texture.own.isNothing());
        QVERIFY(outcome().contains(QStringLiteral("softened, grain")));
        window_.type("soften", QStringLiteral("800"));
        QCOMPARE(finish().texture.soften, 80);
    }

    void twoShotsFlowIntoEachOther() {
        openRow("smearRowHeader");
        QVERIFY(!window_.find<QAbstractButton>("smearCut")->isEnabled()); // there is no next one
        window_->document().duplicateCurrent();
        window_->document().setCurrent(0);
        QTRY_VERIFY(window_->plan() != nullptr);
        ready();
        click("smearCut");
        waitForWork();
        const auto& shots = window_->document().project().shots;
        QCOMPARE(shots[0].finish.smears.size(), std::size_t{1});
        QCOMPARE(shots[1].finish.smears.size(), std::size_t{1});
        QVERIFY(shots[0].finish.smears[0].peak == SmearPeak::end &&
                shots[1].finish.smears[0].peak == SmearPeak::start);
        QCOMPARE(shots[0].finish.smears[0].angle, shots[1].finish.smears[0].angle);
        QCOMPARE(shots[1].finish.smears[0].from, Rational(0));
        window_.type("smearLength", QStringLiteral("30 %"));
        QCOMPARE(window_->document().project().shots[0].finish.smears[0].length, 0.3);
        undo();
        undo();
        QVERIFY(window_->document().project().shots[0].finish.smears.empty());
        QVERIFY(window_->document().project().shots[1].finish.smears.empty()); // both in one step
    }

    void searchesCanBeCancelled() {
        openRow("holdRowHeader");
        click("chooseHold");
        QTest::mouseClick(window_.find<HoldOverlay>("holdOverlay"), Qt::LeftButton, {}, onStage(middleAt(0)));
        QVERIFY(!window_->finishWork().what().isEmpty());
        window_->finishWork().cancel();
        QVERIFY(window_->finishWork().what().isEmpty());
        QVERIFY(!window_.find<QAbstractButton>("cancelFinishWork")->isVisible());
        QVERIFY(finish().hold.path.empty());
    }

    void rowsFoldAndMattesAreDrawnOnTheSource() {
        openRow("frameRowHeader");
        window_.choose("frameSizes", 9);
        openRow("toneRowHeader");
        QVERIFY(!window_.find<QAbstractButton>("frameRowHeader")->isChecked());
        // While a matte is drawn the picture is that of the source, where its outline lies.
        QTest::mouseClick(window_.find<StepCard>("inBetweensStep")->header(), Qt::LeftButton);
        QTest::mouseClick(window_.find<QAbstractButton>("drawMatte"),
                          Qt::LeftButton); // it may be scrolled out of view
        QTRY_VERIFY(
            std::abs(view().stage().placeOfPicture().width() / view().stage().placeOfPicture().height() -
                     16.0 / 9) < 0.01);
        QTest::keyClick(window_.find<OutlineOverlay>("matteOverlay"), Qt::Key_Escape);
        QTRY_VERIFY(
            std::abs(view().stage().placeOfPicture().width() / view().stage().placeOfPicture().height() - 1) <
            0.01);
    }
};

QTEST_MAIN(TestFinishStep)
#include "test_finish_step.moc"
