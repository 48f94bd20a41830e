// Timing shaped in the window with mouse and keys, read back from the plan and from what is on screen.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/chart/chart_places.h"
#include "app/chart/thread_chart.h"
#include "app/look/theme.h"
#include "app/steps/step_layout.h"
#include "app/window/main_window.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/own_settings.h"
#endif

#include <QApplication>
#include <QComboBox>
#include <QLabel>
#include <QLayout>
#include <QLineEdit>
#include <QMenu>
#include <QSplitter>
#include <QTest>

#include <memory>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestTimingWindow : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    std::unique_ptr<MainWindow> window_;
    ThreadChart* chart_ = nullptr;

    template <typename T>
    T* find(const char* name) {
        auto* found = window_->findChild<T*>(QString::fromLatin1(name));
        if (!found) qFatal("There is no %s in the window", name);
        return found;
    }
    void press(const char* button) { QTest::mouseClick(find<QPushButton>(button), Qt::LeftButton); }
    [[nodiscard]] std::size_t rows() const { return window_->plan()->rows.size(); }
    [[nodiscard]] const PlanRow& row(std::size_t n) const { return window_->plan()->rows[n]; }
    [[nodiscard]] Timing timing() const { return *window_->document().currentTiming(); }
    [[nodiscard]] TimeKeys keys() const { return window_->document().current()->keys; }
    [[nodiscard]] double percent(std::size_t segment) const {
        const TimeKeys k = timing().asKeys();
        return 100 * timing()
                         .speedOf((k[segment + 1].position - k[segment].position) /
                                  (k[segment + 1].output - k[segment].output))
                         .toDouble();
    }
    /// Middle of the stretch after a key, on the speed curve.
    [[nodiscard]] QPoint onStretch(std::size_t segment) const {
        const TimeKeys k = timing().asKeys();
        const double middle = (k[segment].output.toDouble() + k[segment + 1].output.toDouble()) / 2;
        const double speed = percent(segment) / 100;
        return QPointF(chart_->xOf(middle), chart_->yOfSpeed(speed)).toPoint();
    }
    void drag(const QPoint& from, const QPoint& to, Qt::KeyboardModifiers modifiers = {}) {
        QTest::mousePress(chart_, Qt::LeftButton, modifiers, from);
        moveTo(from + (to - from) / 2, modifiers);
        moveTo(to, modifiers);
    }
    void moveTo(const QPoint& to, Qt::KeyboardModifiers modifiers) {
        QMouseEvent move(QEvent::MouseMove, to, chart_->mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                         modifiers);
        QApplication::sendEvent(chart_, &move);
    }
    void release(const QPoint& at) { QTest::mouseRelease(chart_, Qt::LeftButton, {}, at); }
    void doubleClick(const QPoint& at) { QTest::mouseDClick(chart_, Qt::LeftButton, {}, at); }
    void typeSpeed(const QString& words) {
        auto* field = find<QLineEdit>("laneSpeedField");
        QVERIFY(field->isVisible());
        QTest::keyClicks(field, words);
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(!field->isVisible());
    }
    void goTo(std::int64_t sourceFrame) {
        QTest::mouseClick(chart_, Qt::LeftButton, {},
                          QPoint(static_cast<int>(std::lround(chart_->xOf(static_cast<double>(sourceFrame)))),
                                 static_cast<int>(chart_->places().outputY) - 20));
    }
    /// Chooses an entry of the menu that the right button opens.
    void choose(const QPoint& at, const QString& entry) {
        QContextMenuEvent asked(QContextMenuEvent::Mouse, at, chart_->mapToGlobal(at));
        QApplication::sendEvent(chart_, &asked);
        const auto menus = chart_->findChildren<QMenu*>();
        QVERIFY(!menus.isEmpty());
        trigger(menus.back(), entry);
    }
    void more(const QString& entry) {
        press("timingMoreButton");
        trigger(find<QMenu>("timingMenu"), entry);
    }
    static void trigger(QMenu* menu, const QString& entry) {
        for (QAction* action : menu->actions())
            if (action->text() == entry) {
                action->trigger();
                menu->close();
                QCoreApplication::sendPostedEvents(menu, QEvent::DeferredDelete);
                return;
            }
        QFAIL(qPrintable(QStringLiteral("no entry ") + entry));
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        applyTheme(*qApp);
        clip_ = clips_.moving(
            QStringLiteral("heron.mp4"), 96,
            {QStringLiteral("-c:v"), QStringLiteral("libx264"), QStringLiteral("-g"), QStringLiteral("12")},
            QStringLiteral("160x90"));
    }
    void init() {
        window_ = std::make_unique<MainWindow>();
        window_->show();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        window_->document().openFiles({clip_});
        QTRY_VERIFY_WITH_TIMEOUT(window_->plan() != nullptr, 20'000);
        chart_ = find<ThreadChart>("threadChart");
    }
    void cleanup() { window_.reset(); }

    void aRampWithTheMouseAlone() {
        auto& undo = window_->document().undoStack();
        const int opened = undo.count();
        goTo(48);
        press("rampButton"); // 100 → 25 → 100 %
        QCOMPARE(keys().size(), std::size_t{6});
        QCOMPARE(percent(2), 25.0);
        const double top = chart_->yOfSpeed(0.35);
        drag(onStretch(2), QPoint(onStretch(2).x(), static_cast<int>(std::lround(top))));
        release(onStretch(2));
        const double slow = percent(2);
        QVERIFY2(slow >= 32 && slow <= 38, qPrintable(QString::number(slow)));
        QCOMPARE(percent(0), 100.0);
        QCOMPARE(percent(4), 100.0);
        // Exactly, by typing on it.
        doubleClick(onStretch(2));
        typeSpeed(QStringLiteral("20"));
        QCOMPARE(percent(2), 20.0);
        // What the plan says: real frames outside, four of five made within.
        const TimeKeys k = keys();
        QCOMPARE(static_cast<std::int64_t>(rows()), k.back().output.round());
        for (std::size_t n = 0; n < rows(); ++n) {
            const Rational o(static_cast<std::int64_t>(n));
            if (o <= k[1].output || o >= k[4].output) QCOMPARE(row(n).kind, FrameKind::original);
            if (o >= k[2].output && o <= k[3].output)
                QCOMPARE(row(n).kind == FrameKind::original, (o - k[2].output).round() % 5 == 0);
        }
        QCOMPARE(row(rows() - 1).position.frame, std::int64_t{95});
        QCOMPARE(find<QLineEdit>("framesField")->text(), QStringLiteral("%1 f").arg(rows()));
        // Each drag is one step of undo.
        QCOMPARE(undo.count() - opened, 3);
        undo.setIndex(opened);
        QVERIFY(keys().empty());
        QCOMPARE(rows(), std::size_t{96});
    }

    void escapeTakesADragBack() {
        goTo(48);
        press("rampButton");
        const TimeKeys before = keys();
        const int steps = window_->document().undoStack().count();
        const QPoint at = onStretch(2);
        drag(at, at + QPoint(0, 14));
        QVERIFY(keys() != before); // live
        QTest::keyClick(chart_, Qt::Key_Escape);
        QCOMPARE(keys(), before);
        release(at);
        QCOMPARE(keys(), before);
        QCOMPARE(window_->document().undoStack().count(), steps);
    }

    void theRampMovesAlongTheSource() {
        goTo(48);
        press("rampButton");
        const TimeKeys before = keys();
        const QPoint at = onStretch(2);
        drag(at, at + QPoint(60, 0));
        release(at);
        const TimeKeys after = keys();
        const Rational by = after[2].position - before[2].position;
        QVERIFY(by > Rational(0));
        QCOMPARE(by.den(), std::int64_t{1}); // whole source frames
        for (std::size_t i = 1; i <= 4; ++i)
            QCOMPARE(after[i].position, before[i].position + by);
        QCOMPARE(after.back().output, before.back().output);
        QCOMPARE(percent(2), 25.0);
    }

    void aKeyMovesByMouseAndByKeys() {
        goTo(48);
        press("rampButton");
        const TimeKeys before = keys();
        const QPoint at = chart_->placeOfKey(1).toPoint();
        drag(at, at + QPoint(-40, 0)); // a longer way in
        release(at);
        QVERIFY(keys()[1].position < before[1].position);
        QCOMPARE(keys()[2].position, before[2].position);
        QCOMPARE(percent(0), 100.0);
        const Rational here = keys()[1].position;
        QTest::keyClick(chart_, Qt::Key_Right, Qt::AltModifier);
        QCOMPARE(keys()[1].position, here + Rational(1));
        QTest::keyClick(chart_, Qt::Key_PageDown);
        QTest::keyClick(chart_, Qt::Key_Up, Qt::AltModifier); // the slow stretch one percent faster
        QCOMPARE(percent(2), 26.0);
        QTest::keyClick(chart_, Qt::Key_Delete);
        QCOMPARE(keys().size(), std::size_t{5});
    }

    void aJumpIsDrawnApartIntoAnEase() {
        const int sourceY = static_cast<int>(chart_->places().sourceY);
        doubleClick(QPoint(static_cast<int>(std::lround(chart_->xOfSource(40))), sourceY));
        QCOMPARE(keys().size(), std::size_t{3});
        QCOMPARE(keys()[1].position, Rational(40));
        doubleClick(onStretch(1));
        typeSpeed(QStringLiteral("50 %"));
        QCOMPARE(percent(1), 50.0);
        const Rational length = keys().back().output;
        const QPoint at = chart_->placeOfKey(1).toPoint();
        QTest::mouseClick(chart_, Qt::LeftButton, {}, at);
        const QPoint handle = at - QPoint(static_cast<int>(chart::easeReach), 0);
        drag(handle, handle - QPoint(80, 0));
        release(handle);
        QCOMPARE(keys().size(), std::size_t{4});
        QCOMPARE(keys()[1].after, Segment::eased);
        QCOMPARE(keys()[1].output + keys()[2].output, Rational(80)); // as far on both sides
        const auto reach = std::llround((80 + chart::easeReach) / chart_->pixelsPerFrame());
        QVERIFY2(std::abs((Rational(40) - keys()[1].output).toDouble() - static_cast<double>(reach)) <= 1,
                 qPrintable(QString::number(keys()[1].output.toDouble()))); // as far as the hand went
        QCOMPARE(keys().back().output, length);
    }

    void aKeyIsPutOnASourceFrame() {
        goTo(48);
        press("rampButton"); // the rails differ now
        const int y = static_cast<int>(chart_->places().sourceY);
        doubleClick(QPoint(static_cast<int>(std::lround(chart_->xOfSource(70))), y));
        const TimeKeys k = keys();
        QVERIFY(
            std::any_of(k.begin(), k.end(), [](const TimeKey& key) { return key.position == Rational(70); }));
    }

    void keepingTheLengthKeepsIt() {
        goTo(48);
        press("rampButton");
        const Rational length = keys().back().output;
        QTest::mouseClick(find<QToolButton>("keepLengthButton"), Qt::LeftButton);
        doubleClick(onStretch(2));
        typeSpeed(QStringLiteral("28"));
        QCOMPARE(percent(2), 28.0);
        QCOMPARE(keys().back().output, length);
    }

    void whatStaysIsChosen() {
        goTo(48);
        auto* field = find<QLineEdit>("speedField");
        const auto type = [&](const char* words) {
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, QString::fromLatin1(words));
            QTest::keyClick(field, Qt::Key_Return);
        };
        auto* anchor = find<QToolButton>("anchorButton");
        QVERIFY(!anchor->isVisible());
        QTest::mouseClick(find<QToolButton>("keepLengthButton"), Qt::LeftButton);
        QVERIFY(anchor->isVisible());
        QCOMPARE(anchor->text(), QStringLiteral("First stays"));
        type("50");
        QCOMPARE(rows(), std::size_t{96});
        QCOMPARE(timing().from, std::int64_t{0});
        QCOMPARE(timing().to, std::int64_t{47});
        window_->document().undoStack().undo();
        QTest::mouseClick(anchor, Qt::LeftButton);
        QCOMPARE(anchor->text(), QStringLiteral("Playhead stays"));
        goTo(48);
        type("50");
        QCOMPARE(timing().from, std::int64_t{24});
        QCOMPARE(timing().to, std::int64_t{71});
        QCOMPARE(window_->player().playhead(), 48); // where that source moment still is
        QCOMPARE(row(48).position, (Position{48, 0}));
        window_->document().undoStack().undo();
        QTest::mouseClick(anchor, Qt::LeftButton);
        type("50");
        QCOMPARE(timing().from, std::int64_t{48});
        type("200"); // the file has no 96 frames more
        QCOMPARE(timing().speed, Rational(1, 2));
    }

    void keysAreChosenAndMovedTogether() {
        goTo(48);
        press("rampButton");
        const TimeKeys before = keys();
        const auto key = [&](int k) { return chart_->placeOfKey(k).toPoint(); };
        QTest::mouseClick(chart_, Qt::LeftButton, {}, key(1));
        QTest::mouseClick(chart_, Qt::LeftButton, Qt::ShiftModifier, key(2));
        QTest::mouseClick(chart_, Qt::LeftButton, Qt::ShiftModifier, key(3));
        QCOMPARE(chart_->chosenKeys(), (std::vector<int>{1, 2, 3}));
        QTest::mouseClick(chart_, Qt::LeftButton, Qt::ShiftModifier, key(3)); // and lets go
        QCOMPARE(chart_->chosenKeys(), (std::vector<int>{1, 2}));
        const QPoint at = key(1);
        drag(at, at - QPoint(static_cast<int>(std::lround(6 * chart_->pixelsPerFrame())), 0));
        release(at);
        const Rational by = keys()[1].position - before[1].position;
        QVERIFY(by < Rational(-3));
        QCOMPARE(keys()[2].position - before[2].position, by);
        for (const std::size_t k : {std::size_t{0}, std::size_t{3}, std::size_t{4}, std::size_t{5}})
            QCOMPARE(keys()[k].position, before[k].position);
        // All keys of a stretch are chosen with it, and taken out together.
        const int y = static_cast<int>(chart_->places().outputY) - 20;
        const int right = static_cast<int>(chart_->xOf(static_cast<double>(rows()) - 1));
        drag({static_cast<int>(chart_->xOf(1)), y}, {right, y}, Qt::ShiftModifier);
        release({right, y});
        QCOMPARE(chart_->chosenKeys(), (std::vector<int>{1, 2, 3, 4}));
        QTest::keyClick(chart_, Qt::Key_Delete);
        QCOMPARE(keys().size(), std::size_t{2});
    }

    void whatStaysHoldsForASelectionToo() {
        QTest::mouseClick(find<QToolButton>("keepLengthButton"), Qt::LeftButton);
        auto* anchor = find<QToolButton>("anchorButton");
        while (anchor->text() != QStringLiteral("Last stays"))
            QTest::mouseClick(anchor, Qt::LeftButton);
        const int y = static_cast<int>(chart_->places().outputY) - 20;
        const auto x = [&](int frame) { return static_cast<int>(std::lround(chart_->xOf(frame))); };
        drag({x(40), y}, {x(59), y}, Qt::ShiftModifier);
        release({x(59), y});
        choose({x(50), y}, QStringLiteral("Speed of these frames…"));
        typeSpeed(QStringLiteral("80"));
        QCOMPARE(keys()[1].output, Rational(35)); // 20 source frames last 25
        QCOMPARE(keys()[2].output, Rational(60));
        QCOMPARE(rows(), std::size_t{96});
    }

    void aReversedSpeedIsStepped() {
        press("reverseButton");
        auto* field = find<QLineEdit>("speedField");
        QCOMPARE(field->text(), QStringLiteral("−100 %"));
        field->setFocus();
        for (int i = 0; i < 3; ++i)
            QTest::keyClick(field, Qt::Key_Down);
        QCOMPARE(percent(0), -97.0);
        QCOMPARE(row(0).position.frame, std::int64_t{95});
    }

    void chosenKeysMoveTogetherInThePositionCurve() {
        goTo(48);
        press("rampButton");
        QTest::mouseClick(find<QToolButton>("curveButton"), Qt::LeftButton);
        const TimeKeys before = keys();
        QTest::mouseClick(chart_, Qt::LeftButton, {}, chart_->placeOfKey(2).toPoint());
        QTest::mouseClick(chart_, Qt::LeftButton, Qt::ShiftModifier, chart_->placeOfKey(3).toPoint());
        const QPoint at = chart_->placeOfKey(3).toPoint();
        drag(at, at - QPoint(0, 3)); // up: later in the source
        release(at);
        const Rational by = keys()[3].position - before[3].position;
        QVERIFY(by > Rational(0));
        QCOMPARE(keys()[2].position - before[2].position, by);
        QCOMPARE(keys()[1].position, before[1].position);
    }

    void keysAreScaledAboutTheFarthest() {
        goTo(48);
        press("rampButton");
        const TimeKeys before = keys();
        const auto key = [&](int k) { return chart_->placeOfKey(k).toPoint(); };
        QTest::mouseClick(chart_, Qt::LeftButton, {}, key(1));
        for (const int k : {2, 3, 4})
            QTest::mouseClick(chart_, Qt::LeftButton, Qt::ShiftModifier, key(k));
        const QPoint at = key(4);
        drag(at, at + QPoint(static_cast<int>(std::lround(8 * chart_->pixelsPerFrame())), 0),
             Qt::ControlModifier);
        release(at);
        QCOMPARE(keys()[1].position, before[1].position);
        const auto span = [](const TimeKeys& k, std::size_t i) {
            return (k[i].position - k[1].position).toDouble();
        };
        const double factor = span(keys(), 4) / span(before, 4);
        QVERIFY2(factor > 1.1, qPrintable(QString::number(factor)));
        for (const std::size_t i : {std::size_t{2}, std::size_t{3}})
            QVERIFY(std::abs(span(keys(), i) / span(before, i) - factor) < 1e-9);
        QCOMPARE(percent(2), 25.0);
    }

    void thumbnailsStandOverTheSourceRail() {
        const chart::Places& at = chart_->places();
        QVERIFY(at.thumbnailHeight >= chart::leastThumbnail);
        const auto above = [&](std::int64_t frame) {
            return chart_->grab()
                .copy(static_cast<int>(chart_->xOfSource(static_cast<double>(frame))) - 20,
                      static_cast<int>(at.thumbnailTop) + 4, 40, static_cast<int>(at.thumbnailHeight) - 8)
                .toImage();
        };
        const QImage empty = [&] {
            QImage paper(above(0).size(), above(0).format());
            paper.fill(shades().paper);
            return paper;
        }();
        QTRY_VERIFY_WITH_TIMEOUT(above(0) != empty && above(50) != empty, 20'000);
        QVERIFY(above(0) != above(50)); // each its own picture
        // A low chart has no room for them.
        find<QSplitter>("halves")->setSizes({10'000, chart::leastHeight});
        QTRY_COMPARE(chart_->places().thumbnailHeight, 0.0);
    }

    void aFreezeHoldsThePlayheadsFrame() {
        goTo(30);
        press("freezeButton");
        QCOMPARE(rows(), std::size_t{96 + 24});
        for (std::size_t n = 30; n <= 54; ++n)
            QCOMPARE(row(n).position, (Position{30, 0}));
        QCOMPARE(row(30).kind, FrameKind::original);
        QCOMPARE(row(31).kind, FrameKind::repeat);
        QCOMPARE(row(55).position, (Position{31, 0}));
    }

    void whatIsSaidOfTheTailMovesNoButton() {
        auto* button = find<QPushButton>("freezeButton");
        auto* card = button->parentWidget();
        const auto said = [&] {
            for (const QLabel* label : card->findChildren<QLabel*>())
                if (label->isVisible() && label->text().contains(QStringLiteral("last source frame")))
                    return true;
            return false;
        };
        QVERIFY(!said());
        card->layout()->activate();
        const QPoint before = button->pos();
        auto* field = find<QLineEdit>("speedField");
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, QStringLiteral("25"));
        QTest::keyClick(field, Qt::Key_Return);
        QTRY_VERIFY(said());
        QTRY_COMPARE(button->pos(), before); // once the card has grown for it
    }

    void reverseAndThereAndBack() {
        press("reverseButton");
        QCOMPARE(rows(), std::size_t{96});
        QCOMPARE(row(0).position, (Position{95, 0}));
        QCOMPARE(row(95).position, (Position{0, 0}));
        window_->document().undoStack().undo();
        press("thereAndBackButton");
        QCOMPARE(row(0).position, (Position{0, 0}));
        std::int64_t farthest = 0;
        for (const PlanRow& r : window_->plan()->rows)
            farthest = std::max(farthest, r.position.frame);
        QCOMPARE(farthest, std::int64_t{95});
        QCOMPARE(row(rows() - 1).position.frame, std::int64_t{0});
    }

    void aStretchIsSelectedSlowedAndCopied() {
        const auto x = [this](double output) { return static_cast<int>(std::lround(chart_->xOf(output))); };
        const int y = static_cast<int>(chart_->places().outputY) - 30;
        drag({x(24), y}, {x(47), y}, Qt::ShiftModifier);
        release({x(47), y});
        QVERIFY(chart_->selection().has_value());
        QCOMPARE(chart_->selection()->first, std::int64_t{24});
        QCOMPARE(chart_->selection()->last, std::int64_t{47});
        choose({x(60), y}, QStringLiteral("Speed of these frames…"));
        typeSpeed(QStringLiteral("50"));
        QCOMPARE(rows(), std::size_t{96 + 24});
        QCOMPARE(row(72).position, (Position{48, 0}));
        QCOMPARE(row(24).position, (Position{24, 0}));
        QTest::keyClick(chart_, Qt::Key_Escape);
        QVERIFY(!chart_->selection().has_value());
        drag({x(24), y}, {x(71), y}, Qt::ShiftModifier);
        release({x(71), y});
        choose({x(60), y}, QStringLiteral("Copy their timing"));
        choose({x(90), y}, QStringLiteral("Paste the timing at source frame 66"));
        QCOMPARE(rows(), std::size_t{96 + 48});
    }

    void theTrimIsDraggedOnTheSourceRail() {
        const int y = static_cast<int>(chart_->places().sourceY);
        const double framePixels = chart_->xOfSource(1) - chart_->xOfSource(0);
        QPoint at(static_cast<int>(std::lround(chart_->xOfSource(95))), y);
        drag(at, at - QPoint(static_cast<int>(std::lround(20 * framePixels)), 0));
        release(at);
        QCOMPARE(timing().to, std::int64_t{75});
        QCOMPARE(rows(), std::size_t{76});
        at = QPoint(static_cast<int>(std::lround(chart_->xOfSource(0))), y);
        drag(at, at + QPoint(200, 0));
        QVERIFY(timing().from > 5);
        QTest::keyClick(chart_, Qt::Key_Escape);
        QCOMPARE(timing().from, std::int64_t{0});
        release(at);
    }

    void thePositionCurveIsEditedAlike() {
        const int sourceY = static_cast<int>(chart_->places().sourceY);
        doubleClick(QPoint(static_cast<int>(std::lround(chart_->xOfSource(48))), sourceY));
        QTest::mouseClick(find<QToolButton>("curveButton"), Qt::LeftButton);
        const QPoint at = chart_->placeOfKey(1).toPoint();
        drag(at, at + QPoint(static_cast<int>(std::lround(12 * chart_->pixelsPerFrame())), 0));
        release(at);
        QCOMPARE(keys()[1].output, Rational(60));
        QCOMPARE(keys()[1].position, Rational(48));
        QCOMPARE(percent(0), 80.0);
        QCOMPARE(percent(1), 100.0); // the later stretch keeps its speed
        QCOMPARE(rows(), std::size_t{108});
    }

    void thePlayheadKeepsItsMomentThroughADrag() {
        goTo(48);
        press("rampButton");
        const Position moment = row(static_cast<std::size_t>(window_->player().playhead())).position;
        QCOMPARE(moment, (Position{48, 0}));
        const QPoint at = onStretch(2);
        QTest::mousePress(chart_, Qt::LeftButton, {}, at);
        for (int y = 1; y < 16; ++y)
            moveTo(at + QPoint(0, y), {});
        for (int y = 15; y >= 0; --y)
            moveTo(at + QPoint(0, y), {});
        release(at);
        const double now = row(static_cast<std::size_t>(window_->player().playhead())).position.toDouble();
        QVERIFY2(std::abs(now - 48) < 0.2, qPrintable(QString::number(now)));
    }

    void aPresetGoesFromShotToShot() {
        goTo(48);
        press("rampButton");
        const TimeKeys kept = keys();
        more(QStringLiteral("Save this timing as a preset…"));
        auto* field = find<QLineEdit>("presetName");
        QVERIFY(field->isVisible());
        QTest::keyClicks(field, QStringLiteral("moment"));
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(!field->isVisible());
        window_->document().duplicateCurrent();
        Shot plain = *window_->document().current();
        plain.keys.clear();
        plain.method = Method::flow;
        window_->document().edit(QStringLiteral("plain"), plain);
        QCOMPARE(rows(), std::size_t{96});
        more(QStringLiteral("Apply “moment”"));
        QCOMPARE(keys(), kept);
        window_->document().undoStack().undo();
        QVERIFY(keys().empty());
    }

    void aStopIsEasedAndLeftAgain() {
        goTo(48);
        more(QStringLiteral("Slow to a stop here and go on"));
        const TimeKeys k = keys();
        QVERIFY(
            std::any_of(k.begin(), k.end(), [](const TimeKey& key) { return key.after == Segment::hold; }));
        QCOMPARE(
            std::count_if(k.begin(), k.end(), [](const TimeKey& key) { return key.after == Segment::eased; }),
            std::ptrdiff_t{2});
        QCOMPARE(k.back().position, Rational(96));
        more(QStringLiteral("Half a frame later in the source"));
        QCOMPARE(keys().front().position, Rational(1, 2));
    }

    void aReelIsMatchedAndRendered() {
        QTest::keyClicks(chart_, QStringLiteral("1")); // sampling: quick
        window_->document().duplicateCurrent();
        doubleClick(onStretch(0));
        typeSpeed(QStringLiteral("50"));
        QCOMPARE(rows(), std::size_t{192});
        const QString before = text(window_->document().project().shots[0].name);
        more(QStringLiteral("Begin at the speed at which %1 ends").arg(before));
        QCOMPARE(keys().front().after, Segment::eased);
        QCOMPARE(timing().map().speedAt(0), 1.0);
        const std::size_t own = rows();
        QVERIFY(own < 192);
        auto* scope = find<QComboBox>("scopeBox");
        scope->setCurrentIndex(1);
        Q_EMIT scope->activated(1);
        const QString target = clips_.path(QStringLiteral("reel.mkv"));
        auto* field = find<QLineEdit>("targetField");
        field->setText(target);
        find<QPushButton>("renderButton")->click();
        QTRY_VERIFY_WITH_TIMEOUT(
            find<QLabel>("renderStatus")->text().contains(QStringLiteral("frames written")), 60'000);
        QCOMPARE(openSource(target)->frames(), static_cast<std::int64_t>(96 + own));
    }

    void anotherShotLetsGoOfDragAndSelection() {
        window_->document().duplicateCurrent();
        const QPoint at = onStretch(0);
        drag(at, at + QPoint(0, 12)); // still held
        window_->document().setCurrent(0);
        const Timing other = timing();
        moveTo(at + QPoint(0, 20), {});
        release(at);
        QVERIFY(timing() == other);
        const int y = static_cast<int>(chart_->places().outputY) - 30;
        drag({300, y}, {500, y}, Qt::ShiftModifier);
        release({500, y});
        QVERIFY(chart_->selection().has_value());
        window_->document().setCurrent(1);
        QVERIFY(!chart_->selection().has_value());
    }

    void playingGoesOnWithTheNextShot() {
        window_->document().duplicateCurrent();
        window_->document().setCurrent(0);
        QTest::mouseClick(find<QToolButton>("playOnButton"), Qt::LeftButton);
        goTo(88);
        window_->player().play(1);
        QTRY_COMPARE_WITH_TIMEOUT(window_->document().currentIndex(), 1, 10'000);
        QVERIFY(window_->player().speed() == 1);
        QVERIFY(window_->player().playhead() < 20);
    }

    void aMethodChosenOnTheWayBackLeavesThePlayhead() {
        press("thereAndBackButton");
        goTo(static_cast<std::int64_t>(rows()) - 10);
        const qint64 at = window_->player().playhead();
        QTest::keyClick(chart_, Qt::Key_1);
        QCOMPARE(window_->player().playhead(), at);
    }

    void aStretchTakesItsOwnMethod() {
        QTest::mouseClick(chart_, Qt::LeftButton, {},
                          QPoint(300, static_cast<int>(chart_->places().outputY) - 30));
        doubleClick(onStretch(0));
        typeSpeed(QStringLiteral("50"));
        const auto x = [this](double output) { return static_cast<int>(std::lround(chart_->xOf(output))); };
        const int y = static_cast<int>(chart_->places().outputY) - 30;
        drag({x(40), y}, {x(60), y}, Qt::ShiftModifier);
        release({x(60), y});
        QTest::keyClick(chart_, Qt::Key_2);
        for (std::size_t n = 1; n < 190; n += 2)
            QCOMPARE(row(n).kind, n > 40 && n < 60 ? FrameKind::blend : FrameKind::flow);
        QVERIFY(find<QLabel>("methodStretches")
                    ->text()
                    .contains(QStringLiteral("gaps 20 to 29: frame blending")));
        QTest::keyClick(chart_, Qt::Key_Escape);
        QTest::keyClick(chart_, Qt::Key_1); // without a selection: the shot
        QCOMPARE(row(1).kind, FrameKind::repeat);
        QCOMPARE(row(41).kind, FrameKind::blend);
        find<QPushButton>("methodEverywhere")->click();
        QCOMPARE(row(41).kind, FrameKind::repeat);
    }

    void whatCannotBeIsSaid() {
        doubleClick(onStretch(0));
        typeSpeed(QStringLiteral("fast"));
        QCOMPARE(rows(), std::size_t{96});
        const auto labels = window_->findChildren<QLabel*>();
        QVERIFY(std::any_of(labels.begin(), labels.end(), [](const QLabel* label) {
            return label->isVisible() && label->text().contains(QStringLiteral("\"fast\" is not a number"));
        }));
    }
};

QTEST_MAIN(TestTimingWindow)
#include "test_timing_window.moc"
