// The window without a mouse: the whole job by keys alone, every stop of Tab shown and in order.

#ifndef Q_MOC_RUN
#include "app/steps/step_card.h"
#include "core/media/library_messages.h"
#endif
#include "app/look/theme.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"

#include <QApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QTest>
#include <QTimer>

#include <algorithm>
#include <functional>
#include <optional>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

namespace {

constexpr int patience = 60'000;
constexpr int mostStops = 200;

QString named(const QWidget* widget) {
    if (!widget) return QStringLiteral("nothing");
    const QString text = widget->property("text").toString();
    return QStringLiteral("%1 %2 “%3”")
        .arg(QLatin1String(widget->metaObject()->className()), widget->objectName(), text);
}

void press(Qt::Key key, Qt::KeyboardModifiers with = Qt::NoModifier) {
    QWidget* focus = QApplication::focusWidget();
    QTest::keyClick(focus ? focus : QApplication::activeWindow(), key, with);
}

/// Types into what has the focus, in the place of what stands there.
void type(const QString& words) {
    press(Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(QApplication::focusWidget(), words);
}

/// Presses Tab until what has the focus is it; false when it never is.
bool tabTo(const std::function<bool(const QWidget&)>& wanted) {
    for (int n = 0; n < mostStops; ++n) {
        if (QApplication::focusWidget() && wanted(*QApplication::focusWidget())) return true;
        press(Qt::Key_Tab);
    }
    return false;
}
bool tabTo(const char* name) {
    return tabTo([name](const QWidget& one) { return one.objectName() == QLatin1String(name); });
}
bool tabToStep(const QString& title) {
    return tabTo([&](const QWidget& one) {
        const auto* header = qobject_cast<const StepHeader*>(&one);
        return header && header->text() == title;
    });
}

struct Stop {
    QWidget* widget;
    QRect place; ///< in the window when Tab came to it; what scrolls moves on
};

/// All that Tab comes to, once round.
std::vector<Stop> stopsOf(QWidget& window) {
    std::vector<Stop> stops;
    window.setFocus();
    for (int n = 0; n < mostStops; ++n) {
        press(Qt::Key_Tab);
        QWidget* focus = QApplication::focusWidget();
        if (!focus || (!stops.empty() && focus == stops.front().widget)) break;
        QCoreApplication::processEvents();
        if (std::ranges::find(stops, focus, &Stop::widget) == stops.end())
            stops.push_back({focus, {focus->mapTo(&window, QPoint()), focus->size()}});
    }
    return stops;
}

/// What is on screen of a widget and right around it.
QImage pictureOf(QWidget& window, const QWidget& widget) {
    QCoreApplication::processEvents();
    constexpr int around = 4;
    const QRect place(widget.mapTo(&window, QPoint()), widget.size());
    return window.grab(place.adjusted(-around, -around, around, around)).toImage();
}

} // namespace

class TestKeyboard : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        applyTheme(*qApp);
        clip_ = clips_.moving(QStringLiteral("plover.mp4"), 12, {}, QStringLiteral("160x90"));
    }

    void theWholeJobFromFileToRender() {
        MainWindow window{QString()};
        window.show();
        QVERIFY(QTest::qWaitForWindowActive(&window));
        QTimer whenAsked; // the dialog has an event loop of its own
        connect(&whenAsked, &QTimer::timeout, this, [&] {
            auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
            if (!dialog || !qobject_cast<QLineEdit*>(QApplication::focusWidget())) return;
            whenAsked.stop();
            QTest::keyClicks(QApplication::focusWidget(), clip_);
            press(Qt::Key_Return);
        });
        whenAsked.start(20);
        press(Qt::Key_O, Qt::ControlModifier);
        QTRY_VERIFY_WITH_TIMEOUT(window.plan() && window.plan()->rows.size() == 12, patience);
        window.activateWindow(); // as a desktop does when a dialog goes
        QVERIFY(QTest::qWaitForWindowActive(&window));

        QVERIFY(tabToStep(QStringLiteral("Timing")));
        press(Qt::Key_Space); // opens it, as it would any button's header
        if (!window.findChild<QLineEdit*>(QStringLiteral("speedField"))->isVisible()) press(Qt::Key_Return);
        QVERIFY(tabTo("speedField"));
        type(QStringLiteral("50"));
        press(Qt::Key_Return);
        QTRY_VERIFY_WITH_TIMEOUT(window.plan()->rows.size() > 20, patience);
        const auto made = static_cast<qint64>(window.plan()->rows.size());

        QVERIFY(tabToStep(QStringLiteral("In-betweens")));
        press(Qt::Key_2);
        QTRY_VERIFY_WITH_TIMEOUT(window.plan()->count(FrameKind::blend) > 0, patience);

        QVERIFY(tabToStep(QStringLiteral("Render")));
        press(Qt::Key_Return);
        QVERIFY(tabTo("targetField"));
        const QString target = clips_.path(QStringLiteral("plover_slow.mkv"));
        type(target);
        QVERIFY(tabTo("renderButton"));
        press(Qt::Key_Return);
        QTRY_VERIFY_WITH_TIMEOUT(QFileInfo::exists(target), patience);
        QCOMPARE(openSource(target)->facts().frames, made);
    }

    void everyStopOfTabIsSeen_data() {
        QTest::addColumn<QString>("step");
        for (const char* step :
             {"Footage", "Trim", "Clean", "Timing", "In-betweens", "Mend", "Finish", "Render"})
            QTest::newRow(step) << QString::fromLatin1(step);
    }
    void everyStopOfTabIsSeen() {
        QFETCH(QString, step);
        ShotWindow shot;
        shot.open(clip_);
        MainWindow& window = *shot.operator->();
        QVERIFY(QTest::qWaitForWindowActive(&window));
        QVERIFY(tabToStep(step));
        if (!static_cast<StepHeader*>(QApplication::focusWidget())->isChecked()) press(Qt::Key_Return);
        QVERIFY(static_cast<StepHeader*>(QApplication::focusWidget())->isChecked());
        // What is still found out about the shot moves what is looked at.
        const std::string media = window.document().current()->media;
        QTRY_VERIFY_WITH_TIMEOUT(window.document().media().state(media).suitability &&
                                     window.preview().isSettled() && !window.doubts().isSearching(),
                                 patience);
        QCoreApplication::processEvents();
        const std::vector<Stop> stops = stopsOf(window);
        QVERIFY2(stops.size() > 20, qPrintable(QString::number(stops.size())));
        QStringList faults;
        for (const auto& [stop, place] : stops) {
            for (QWidget* around = stop->parentWidget(); around; around = around->parentWidget())
                if (auto* area = qobject_cast<QScrollArea*>(around))
                    area->ensureWidgetVisible(stop); // as Tab does
            stop->setFocus(Qt::TabFocusReason);
            const QImage with = pictureOf(window, *stop);
            window.setFocus();
            const QImage without = pictureOf(window, *stop);
            if (with == without) faults << QStringLiteral("not seen: ") + named(stop);
            if (!window.rect().contains(place.center()))
                faults << QStringLiteral("off the window: ") + named(stop);
        }
        QVERIFY2(faults.isEmpty(),
                 qPrintable(QStringLiteral("\n    ") + faults.join(QStringLiteral("\n    "))));
    }

    void tabGoesDownEachColumn() {
        ShotWindow shot;
        shot.open(clip_);
        MainWindow& window = *shot.operator->();
        QVERIFY(QTest::qWaitForWindowActive(&window));
        // Within the steps each stop lies below the one before, or to the right of it in its row.
        const auto* column = window.findChild<QWidget*>(QStringLiteral("leftColumn"));
        QStringList faults;
        std::optional<Stop> before;
        for (const Stop& stop : stopsOf(window)) {
            if (!column->isAncestorOf(stop.widget)) continue;
            if (before) {
                const bool isRow =
                    stop.place.top() < before->place.bottom() && stop.place.bottom() > before->place.top();
                if (isRow ? stop.place.left() < before->place.left() : stop.place.top() < before->place.top())
                    faults << named(stop.widget) + QStringLiteral(" after ") + named(before->widget);
            }
            before = stop;
        }
        QVERIFY(before);
        QVERIFY2(faults.isEmpty(),
                 qPrintable(QStringLiteral("\n    ") + faults.join(QStringLiteral("\n    "))));
    }
};

QTEST_MAIN(TestKeyboard)
#include "test_keyboard.moc"
