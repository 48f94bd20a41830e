// A matte drawn on the stage of a real window, by mouse and by keys alone.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/stage/outline_overlay.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"
#endif

#include <QApplication>
#include <QCheckBox>
#include <QLabel>
#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestMatteDrawing : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    ShotWindow window_;

    template <typename T>
    T* find(const char* name) {
        return window_.find<T>(name);
    }
    [[nodiscard]] const Matte& matte() const { return window_->document().current()->matte; }
    OutlineOverlay* overlay() { return find<OutlineOverlay>("matteOverlay"); }
    bool isDrawing() { return window_->findChild<GapView*>()->editsMatte(); }
    /// Where a place of the picture (320 x 180) lies on the overlay.
    QPoint placeOf(double x, double y) {
        const QRectF picture = window_->findChild<GapView*>()->stage().placeOfPicture();
        return QPointF(picture.left() + x / 320 * picture.width(), picture.top() + y / 180 * picture.height())
            .toPoint();
    }
    void click(double x, double y) { QTest::mouseClick(overlay(), Qt::LeftButton, {}, placeOf(x, y)); }
    void drag(double x, double y, double toX, double toY) {
        QTest::mousePress(overlay(), Qt::LeftButton, {}, placeOf(x, y));
        QTest::mouseMove(overlay(), placeOf((x + toX) / 2, (y + toY) / 2));
        QTest::mouseMove(overlay(), placeOf(toX, toY));
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, placeOf(toX, toY));
    }
    static bool isNear(const MattePoint& p, double x, double y) {
        return std::hypot(p.x - x, p.y - y) < 1; // a pixel of the screen is about half of one of the picture
    }
    void drawSquare() {
        QTest::mouseClick(find<QPushButton>("drawMatte"), Qt::LeftButton);
        for (const auto& [x, y] : {std::pair(60.0, 40.0), {160.0, 40.0}, {160.0, 120.0}, {60.0, 120.0}})
            click(x, y);
        QTest::keyClick(overlay(), Qt::Key_Return);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 8, {}, QStringLiteral("320x180"));
    }
    void init() {
        window_.open(clip_);
        QTest::mouseClick(find<QToolButton>("moreInBetweens"), Qt::LeftButton);
        QCoreApplication::processEvents(); // the column is laid out anew
    }
    void cleanup() { window_.close(); }

    void anOutlineIsDrawnAndUndone() {
        drawSquare();
        QCOMPARE(matte().keys.size(), std::size_t{1});
        QCOMPARE(matte().keys[0].frame, 0);
        QCOMPARE(matte().keys[0].points.size(), std::size_t{4});
        QVERIFY(isNear(matte().keys[0].points[0], 60, 40));
        QVERIFY(isNear(matte().keys[0].points[2], 160, 120));
        QCOMPARE(find<QLabel>("matteState")->text(), QStringLiteral("4 points, key at source frame 0"));
        QVERIFY(overlay()->hint().startsWith(QStringLiteral("Key at source frame 0.")));
        QVERIFY(find<QLabel>("sentence")->text().startsWith(overlay()->hint()));
        QTest::keyClick(overlay(), Qt::Key_Escape);
        QVERIFY(!isDrawing());
        QVERIFY(!qobject_cast<QAbstractButton*>(QApplication::focusWidget()));
        QVERIFY(find<QLabel>("sentence")->text().startsWith(QStringLiteral("Output 0")));
        QVERIFY(!find<QPushButton>("drawMatte")->isChecked());
        window_->document().undoStack().undo();
        QVERIFY(matte().empty());
        QVERIFY(!find<QPushButton>("removeMatte")->isEnabled());
    }

    void pointsAtTheEdgeOfThePictureLieOutside() {
        QTest::mouseClick(find<QPushButton>("drawMatte"), Qt::LeftButton);
        for (const auto& [x, y] : {std::pair(100.0, 1.0), {319.0, 1.0}, {200.0, 90.0}})
            click(x, y);
        QVERIFY(find<QLabel>("sentence")->text().contains(QStringLiteral("Enter to close")));
        QTest::keyClick(overlay(), Qt::Key_Return);
        QCOMPARE(matte().keys[0].points[0].y, -8.0);
        QVERIFY(matte().keys[0].points[1] == (MattePoint{328, -8}));
        QVERIFY(isNear(matte().keys[0].points[2], 200, 90));
    }

    void aChangeElsewhereIsAKeyThere() {
        drawSquare();
        window_->player().goTo(16); // source frame 4
        QVERIFY(overlay()->hint().startsWith(QStringLiteral("Source frame 4, between keys.")));
        drag(160, 120, 200, 150); // a point
        QCOMPARE(matte().keys.size(), std::size_t{2});
        QCOMPARE(matte().keys[1].frame, 4);
        QVERIFY(isNear(matte().keys[1].points[2], 200, 150));
        QVERIFY(isNear(matte().keys[1].points[0], 60, 40));
        window_->player().goTo(8); // half way, where the point is half way too
        QVERIFY(isNear(overlay()->outline()[2], 180, 135));
        window_->player().goTo(16);
        drag(100, 80, 110, 70); // the whole
        QVERIFY(isNear(matte().keys[1].points[0], 70, 30));
        QVERIFY(isNear(matte().keys[0].points[0], 60, 40));
        QTest::mouseDClick(overlay(), Qt::LeftButton, {}, placeOf(60, 80)); // no line there any more
        QCOMPARE(matte().keys[0].points.size(), std::size_t{4});
        QTest::mouseDClick(overlay(), Qt::LeftButton, {}, placeOf(120, 30)); // the upper line
        QCOMPARE(matte().keys[0].points.size(), std::size_t{5});
        QTest::keyClick(overlay(), Qt::Key_Delete); // the new one
        QCOMPARE(matte().keys[1].points.size(), std::size_t{4});
    }

    void keysAloneAreEnough() {
        find<QPushButton>("drawMatte")->setFocus();
        QTest::keyClick(find<QPushButton>("drawMatte"), Qt::Key_Return);
        QVERIFY(isDrawing());
        QVERIFY(overlay()->hasFocus());
        QTest::keyClick(overlay(), Qt::Key_Insert);
        QVERIFY(matte().keys[0].points ==
                (std::vector<MattePoint>{{80, 45}, {240, 45}, {240, 135}, {80, 135}}));
        QTest::keyClick(overlay(), Qt::Key_PageDown);
        QTest::keyClick(overlay(), Qt::Key_PageDown);
        QTest::keyClick(overlay(), Qt::Key_Right, Qt::ControlModifier);
        QTest::keyClick(overlay(), Qt::Key_Down, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(matte().keys[0].points[1] == (MattePoint{241, 55}));
        QTest::keyClick(overlay(), Qt::Key_Right); // the playhead's own keys go on working
        QCOMPARE(window_->player().playhead(), 1);
    }

    void theFrameIsMadeAnewAndTheOrderCounts() {
        auto& stage = window_->findChild<GapView*>()->stage();
        const auto settled = [&] {
            return QTest::qWaitFor([&] { return !stage.isStale() && !stage.isDraft(); }, 60'000);
        };
        // The in-between alone: the pictures beside it come when they come.
        const auto shown = [&] {
            const QRect all = stage.rect();
            return stage.grab({all.width() / 4, 0, all.width() / 2, all.height()}).toImage();
        };
        window_->player().goTo(2);
        QVERIFY(settled());
        const QImage plain = shown();
        drawSquare();
        QVERIFY(stage.isStale() || stage.isDraft()); // and says so, until it is made
        QTest::keyClick(overlay(), Qt::Key_Escape);
        QVERIFY(settled());
        QVERIFY(shown() != plain);
        const QImage onTop = shown();
        QTest::mouseClick(find<QCheckBox>("matteOnTop"), Qt::LeftButton);
        QVERIFY(!matte().onTop);
        QVERIFY(settled());
        QVERIFY(shown() != onTop);
        window_.type("featherField", QStringLiteral("12 px"));
        QCOMPARE(matte().feather, 12);
        find<QPushButton>("removeMatte")->click();
        QVERIFY(matte().empty());
        QVERIFY(settled());
        QVERIFY(shown() == plain);
    }

    void aPointDraggedFarOutStaysWithinReach() {
        drawSquare();
        QTest::mousePress(overlay(), Qt::LeftButton, {}, placeOf(160, 120));
        QTest::mouseMove(overlay(), {30'000, 30'000});
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, {30'000, 30'000});
        QVERIFY(matte().keys[0].points[2] == (MattePoint{640, 360})); // a picture's size outside
        QVERIFY(isNear(matte().keys[0].points[0], 60, 40));
    }

    void picturesTakeThePlaceOfAnOutline() {
        drawSquare();
        const QString pictures = clips_.moving(QStringLiteral("matte.mp4"), 8, {}, QStringLiteral("320x180"));
        window_->findChild<MatteSettings*>()->usePictures(pictures);
        QVERIFY(!isDrawing()); // there is nothing to draw on
        QVERIFY(!find<QPushButton>("drawMatte")->isEnabled());
        QVERIFY(find<QLabel>("matteState")->text().contains(QStringLiteral("matte.mp4")));
        window_->findChild<MatteSettings*>()->usePictures(QStringLiteral("/nowhere/matte_01.png"));
        window_->player().goTo(2);
        QVERIFY(QTest::qWaitFor(
            [&] {
                return find<QLabel>("sentence")
                    ->text()
                    .contains(QStringLiteral("The matte's pictures cannot be read."));
            },
            30'000));
    }
};

QTEST_MAIN(TestMatteDrawing)
#include "test_matte_drawing.moc"
