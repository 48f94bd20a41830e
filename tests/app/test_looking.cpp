// Looking at frames with mouse and keys: overlays, probe, source frames in place, gaps, loops, two versions.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/document/media_library.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"
#endif

#include <QApplication>
#include <QComboBox>
#include <QLabel>
#include <QSet>
#include <QTest>
#include <QToolButton>

#include <cmath>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestLooking : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    ShotWindow window_;

    PictureStage& stage() { return window_->gapView().stage(); }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        QTest::keyClick(window_.operator->(), key, modifiers);
    }
    /// The stage with the frame of the playhead as it will stay.
    QImage seen() {
        const auto settled = [this] {
            return !stage().isStale() && !stage().isDraft() &&
                   stage().shownOutput() == window_->player().playhead();
        };
        if (!QTest::qWaitFor(settled, 30'000)) qFatal("The frame does not come");
        return stage().grab().toImage();
    }
    QImage seenWithInsight() {
        seen();
        if (!QTest::qWaitFor([this] { return stage().insight() != nullptr; }, 30'000))
            qFatal("What the frame is made of does not come");
        return stage().grab().toImage();
    }
    /// Mean over pixels of the picture of how much `a` and `b` differ, 0 to 255.
    double difference(const QImage& a, const QImage& b) {
        const QRect place = stage().placeOfPicture().toAlignedRect().adjusted(3, 3, -3, -3);
        double sum = 0;
        for (int y = place.top(); y <= place.bottom(); ++y)
            for (int x = place.left(); x <= place.right(); ++x)
                sum += std::abs(qGray(a.pixel(x, y)) - qGray(b.pixel(x, y)));
        return sum / (place.width() * place.height());
    }
    /// Point of the stage over the middle of pixel (x, y) of the shot.
    QPoint over(int x, int y) {
        const QRectF place = stage().placeOfPicture();
        return QPointF(place.left() + (x + 0.5) * place.width() / 320,
                       place.top() + (y + 0.5) * place.height() / 180)
            .toPoint();
    }
    QString probe() { return window_.find<QLabel>("probe")->text(); }
    void choose(const char* box, int index) { window_.choose(box, index); }
    const Shot& shot() { return *window_->document().current(); }
    bool otherIsThere() {
        return QTest::qWaitFor([this] { return !stage().isOtherStale(); }, 30'000);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 8, {}, QStringLiteral("320x180"));
    }
    void init() {
        window_.open(clip_);
        window_->player().goTo(2);
        window_->setFocus();
    }
    void cleanup() { window_.close(); }

    void eachOverlayIsLaidOverAndTakenAwayAgain() {
        const QImage plain = seen();
        for (const auto& [which, words] : {std::pair(Qt::Key_V, "Vectors:"),
                                           {Qt::Key_T, "Trust:"},
                                           {Qt::Key_D, "Difference:"},
                                           {Qt::Key_M, "Made from:"}}) {
            key(which);
            const QImage with = seenWithInsight();
            QVERIFY2(difference(plain, with) > (which == Qt::Key_M ? 0.0 : 0.2),
                     words); // little is hidden here
            QVERIFY2(probe().startsWith(QLatin1String(words)), qPrintable(probe()));
            key(which);
            QCOMPARE(difference(plain, seen()), 0.0);
        }
        // By mouse; choosing one takes the other away.
        QTest::mouseClick(window_.find<QToolButton>("trustButton"), Qt::LeftButton);
        QTest::mouseClick(window_.find<QToolButton>("vectorsButton"), Qt::LeftButton);
        QVERIFY(!window_.find<QToolButton>("trustButton")->isChecked());
        QVERIFY(window_.find<QToolButton>("vectorsButton")->isChecked());
        // An original was not moved, and says so.
        window_->player().goTo(4);
        seenWithInsight();
        QVERIFY2(probe().contains(QStringLiteral("nothing was moved")), qPrintable(probe()));
    }

    void theProbeTellsThePixelUnderThePointer() {
        seen();
        QTest::mouseMove(&stage(), over(100, 60));
        seenWithInsight();
        const FrameInsight& frame = stage().insight()->frame;
        const QString luma = QStringLiteral("Y %1 ").arg(frame.image->row<std::uint8_t>(0, 60)[100]);
        QVERIFY2(probe().startsWith(QStringLiteral("x 100, y 60 · ") + luma), qPrintable(probe()));
        QVERIFY2(probe().contains(QStringLiteral("trust")) && probe().contains(QStringLiteral("moves")),
                 qPrintable(probe()));
        QTest::mouseMove(&stage(), over(101, 61));
        QVERIFY2(probe().startsWith(QStringLiteral("x 101, y 61")), qPrintable(probe()));
        QTest::mouseMove(&stage(), QPoint(2, 2));
        QVERIFY2(probe().isEmpty(), qPrintable(probe()));
    }

    void sourceFramesShowInPlaceWhileAKeyIsHeld() {
        const QImage made = seen();
        QTest::keyPress(window_.operator->(), Qt::Key_Comma);
        QVERIFY(
            QTest::qWaitFor([this] { return window_->preview().largeSourcePicture(0) != nullptr; }, 30'000));
        const QImage before = stage().grab().toImage();
        QCOMPARE(stage().flickedTo(), std::optional<std::int64_t>(0));
        QVERIFY(difference(made, before) > 0.2);
        // It is the same picture as the original, at the same place.
        QTest::keyRelease(window_.operator->(), Qt::Key_Comma);
        QCOMPARE(difference(made, stage().grab().toImage()), 0.0);
        window_->player().goTo(0);
        QImage original = seen();
        QVERIFY(difference(original, before) < 0.5); // but for the note in the corner
    }

    void ctrlWithAnArrowGoesFromGapToGap() {
        key(Qt::Key_Right, Qt::ControlModifier);
        QCOMPARE(window_->player().playhead(), 4);
        key(Qt::Key_Right, Qt::ControlModifier);
        QCOMPARE(window_->player().playhead(), 8);
        key(Qt::Key_Right);
        key(Qt::Key_Left, Qt::ControlModifier); // first to the beginning of this one
        QCOMPARE(window_->player().playhead(), 8);
        key(Qt::Key_Left, Qt::ControlModifier);
        QCOMPARE(window_->player().playhead(), 4);
    }

    void theMomentStaysWhenTheSpeedChanges() {
        window_->player().goTo(22); // position 5.5 at 25 %
        Shot changed = shot();
        changed.speed = 1;
        window_->document().edit(QStringLiteral("speed"), changed);
        QVERIFY(std::abs(window_->player().playhead() - 5.5) <= 0.5);
        window_->document().undoStack().undo(); // and comes back to where it was
        QCOMPARE(window_->player().playhead(), 22);
    }

    void pixelsAreToldApartWhenLarge() {
        seen();
        stage().setZoom(16, stage().rect().center());
        const QImage large = seen();
        QCOMPARE(std::lround(stage().zoomPercent()), 1600);
        // Between two lines all is one pixel: in its middle nothing changes from one screen pixel to the
        // next.
        const QPoint at = over(160, 90);
        QCOMPARE(large.pixel(at), large.pixel(at + QPoint(3, 3)));
        QCOMPARE(large.pixel(at), large.pixel(at - QPoint(3, 3)));
        int lines = 0; // one on each way out of it
        for (const QPoint& way : {QPoint(1, 0), QPoint(-1, 0), QPoint(0, 1), QPoint(0, -1)})
            for (int step = 6; step <= 10; ++step)
                if (large.pixel(at + way * step) != large.pixel(at)) {
                    ++lines;
                    break;
                }
        QCOMPARE(lines, 4);
    }

    void aLoopIsMadeReadyAndPlayed() {
        window_->player().goTo(0);
        key(Qt::Key_G);
        QVERIFY(window_->player().loop().has_value());
        QCOMPARE(window_->player().loop()->first, 0);
        QVERIFY(window_.find<QToolButton>("loopButton")->isChecked());
        window_->player().setLoop(std::pair<qint64, qint64>(3, 9));
        QTest::mouseClick(window_.find<QToolButton>("readyButton"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([this] { return window_->player().speed() == 1; }, 60'000));
        for (std::size_t i = 3; i <= 9; ++i)
            QCOMPARE(window_->preview().ready()[i], Readiness::ready);
        QVERIFY(QTest::qWaitFor([this] { return window_->player().playhead() == 8; }, 10'000));
        QVERIFY(QTest::qWaitFor([this] { return window_->player().playhead() < 5; }, 10'000));
        QVERIFY(window_->player().playhead() >= 3);
        window_->player().pause();
        QVERIFY(window_.find<QLabel>("playState")->text().startsWith(QStringLiteral("loop 3 to 9")));
        key(Qt::Key_G);
        QVERIFY(!window_->player().loop());
    }

    void twoVersionsShowTheirSides() {
        const QImage now = seen();
        window_->document().undoStack().setClean();
        key(Qt::Key_C);
        QVERIFY(window_.find<CompareBar>("compareBar")->isVisible());
        choose("compareWith", 1); // blending
        QVERIFY(otherIsThere());
        // As the shot itself would be made by blending.
        choose("compareMode", 2);
        seen(); // at its new size
        QVERIFY(otherIsThere());
        QVERIFY(QTest::qWaitFor([this] { return stage().showsOther(); }, 10'000));
        const QImage blended = stage().grab().toImage();
        QVERIFY(QTest::qWaitFor([this] { return !stage().showsOther(); }, 10'000));
        const QImage flow = stage().grab().toImage();
        QVERIFY(difference(flow, blended) > 0.3);

        choose("compareMode", 1);
        const QImage wiped = stage().grab().toImage();
        const QRect place = stage().placeOfPicture().toAlignedRect();
        // Scaling may differ by a step where a path clips it.
        const auto alike = [&](const QImage& other, int x, int y) {
            const QColor one(wiped.pixel(x, y));
            const QColor two(other.pixel(x, y));
            return std::abs(one.red() - two.red()) + std::abs(one.green() - two.green()) +
                       std::abs(one.blue() - two.blue()) <=
                   6;
        };
        int left = 0;
        int right = 0;
        for (int y = place.top() + 40; y < place.bottom() - 10; ++y) { // below the notes
            left += alike(flow, place.left() + place.width() / 4, y);
            right += alike(blended, place.right() - place.width() / 4, y);
        }
        QCOMPARE(left, place.height() - 51);
        QCOMPARE(right, place.height() - 51);
        // The line is dragged away to the left: all is the other version.
        const QPoint middle = stage().wipe().middle(stage().placeOfPicture()).toPoint();
        QTest::mousePress(&stage(), Qt::LeftButton, {}, middle);
        QTest::mouseMove(&stage(), QPoint(place.left() + 2, middle.y()));
        QTest::mouseRelease(&stage(), Qt::LeftButton, {}, QPoint(place.left() + 2, middle.y()));
        const QImage moved = stage().grab().toImage();
        const QPoint far(place.left() + place.width() / 4, place.bottom() - 20);
        QCOMPARE(moved.pixel(far), blended.pixel(far));

        choose("compareMode", 3); // difference: black where both are alike
        choose("compareWith", 2); // flow, as it is now
        QVERIFY(otherIsThere());
        const QImage same = stage().grab().toImage();
        QCOMPARE(same.pixel(far), QColor(Qt::black).rgb());
        choose("compareWith", 0);
        QVERIFY(otherIsThere());
        const double fourfold = difference(stage().grab().toImage(), same);
        QVERIFY(fourfold > 0.3);
        choose("differenceGain", 4); // sixteenfold
        QVERIFY(difference(stage().grab().toImage(), same) > fourfold);
        key(Qt::Key_C);
        QTRY_COMPARE(stage().grab().toImage().size(), now.size()); // its room is given back
        QCOMPARE(difference(seen(), now), 0.0);
    }

    void theOtherVersionIsKeptWithOneClickAndUndone() {
        key(Qt::Key_C);
        choose("compareWith", 1);
        QVERIFY(otherIsThere());
        QTest::mouseClick(window_.find<QToolButton>("keepButton"), Qt::LeftButton);
        QCOMPARE(shot().method, Method::blend);
        seen(); // and is on screen without anything more
        QVERIFY(window_.find<QLabel>("sentence")->text().contains(QStringLiteral("blend")));
        window_->document().undoStack().undo();
        QCOMPARE(shot().method, Method::flow);
    }

    void settingsArePutByAndComparedWith() {
        key(Qt::Key_C);
        QTest::mouseClick(window_.find<QToolButton>("saveSettingsButton"), Qt::LeftButton);
        QCOMPARE(shot().takes.size(), std::size_t{1});
        QCOMPARE(shot().takes.front().name, std::string("Take 1"));
        auto* with = window_.find<QComboBox>("compareWith");
        QCOMPARE(with->currentText(), QStringLiteral("Take 1"));
        QVERIFY(!window_.find<QToolButton>("keepButton")->isEnabled()); // it is the same yet
        window_.type("stiffnessField", QStringLiteral("90"));
        QVERIFY(window_.find<QToolButton>("keepButton")->isEnabled());
        QVERIFY(otherIsThere());
        QTest::mouseClick(window_.find<QToolButton>("keepButton"), Qt::LeftButton);
        QCOMPARE(shot().inBetweens.flow.stiffness, FlowOptions::defaultStiffness);
        QTest::mouseClick(window_.find<QToolButton>("deleteSettingsButton"), Qt::LeftButton);
        QVERIFY(shot().takes.empty());
    }

    void bothVersionsZoomTogether() {
        seen();
        key(Qt::Key_C);
        choose("compareWith", 2); // the same as now, so that any shift would show
        choose("compareMode", 0);
        stage().setZoom(4, QPointF(200, 150));
        QVERIFY(otherIsThere());
        const QImage both = seen();
        const int shift = stage().width() / 2 - 8;
        QSet<QRgb> colours;
        for (int y = 60; y < stage().height() - 20; y += 3) // below the notes
            for (int x = 30; x < shift - 30; x += 3) {
                QCOMPARE(both.pixel(x, y), both.pixel(x + shift, y));
                colours.insert(both.pixel(x, y));
            }
        QVERIFY(colours.size() > 20); // there was something to see
    }
};

QTEST_MAIN(TestLooking)
#include "test_looking.moc"
