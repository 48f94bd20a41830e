// Every step and sheet at seven sizes: no text is cut, nothing lies over something else, nothing is off the
// window.

#include "app/look/theme.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"

#include <QAbstractButton>
#include <QApplication>
#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QTest>
#include <QToolButton>

#include <algorithm>

using namespace yarngap::app;
using namespace yarngap::test;

namespace {

/// What is read or pressed.
bool isShownControl(const QWidget& widget) {
    if (!widget.isVisible() || widget.width() == 0 || widget.height() == 0) return false;
    if (const auto* label = qobject_cast<const QLabel*>(&widget)) return !label->text().isEmpty();
    return qobject_cast<const QAbstractButton*>(&widget) || qobject_cast<const QLineEdit*>(&widget) ||
           qobject_cast<const QComboBox*>(&widget);
}

QString named(const QWidget& widget) {
    QString text = widget.property("text").toString();
    if (text.isEmpty()) text = widget.accessibleName();
    return QStringLiteral("%1 “%2” at %3,%4 %5x%6")
        .arg(widget.objectName().isEmpty() ? QLatin1String(widget.metaObject()->className())
                                           : widget.objectName(),
             text)
        .arg(widget.x())
        .arg(widget.y())
        .arg(widget.width())
        .arg(widget.height());
}

/// The area it scrolls in; null when it does not.
const QScrollArea* scrolledIn(const QWidget& widget) {
    for (const QWidget* w = widget.parentWidget(); w; w = w->parentWidget())
        if (const auto* area = qobject_cast<const QScrollArea*>(w)) return area;
    return nullptr;
}

bool isCut(const QWidget& widget) {
    if (const auto* label = qobject_cast<const QLabel*>(&widget)) {
        if (label->property("elides").toBool()) return false; // ends in …, and says all in its tip
        if (label->wordWrap()) return label->heightForWidth(label->width()) > label->height() + 1;
        return label->sizeHint().width() > label->width() + 1 ||
               label->sizeHint().height() > label->height() + 1;
    }
    if (const auto* button = qobject_cast<const QAbstractButton*>(&widget)) {
        if (button->text().isEmpty() || qobject_cast<const StepHeader*>(button)) return false; // it elides
        return button->fontMetrics().horizontalAdvance(button->text()) > button->width() + 1;
    }
    return false;
}

/// All that is wrong with the window as it is.
QStringList faultsOf(const QWidget& window) {
    QStringList faults;
    const auto children = window.findChildren<QWidget*>();
    for (const QWidget* widget : children) {
        if (!isShownControl(*widget) || widget->window() != &window) continue;
        if (isCut(*widget)) faults << QStringLiteral("cut: ") + named(*widget);
        const QRect place(widget->mapTo(&window, QPoint()), widget->size());
        const QScrollArea* area = scrolledIn(*widget);
        const QRect whole = area ? QRect(area->mapTo(&window, QPoint()), area->size()) : window.rect();
        // What scrolls may be above or below what is seen, but not beside it.
        const bool isOff = area ? place.left() < whole.left() - 1 || place.right() > whole.right() + 1
                                : !whole.contains(place);
        if (isOff) faults << QStringLiteral("off the window: ") + named(*widget);
        for (const QWidget* other : children) {
            if (other <= widget || other->parentWidget() != widget->parentWidget() || !isShownControl(*other))
                continue;
            if (widget->geometry().intersects(other->geometry()))
                faults << QStringLiteral("over each other: ") + named(*widget) + QStringLiteral(" and ") +
                              named(*other);
        }
    }
    return faults;
}

} // namespace

class TestScreens : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    void settle() {
        for (int i = 0; i < 3; ++i) {
            QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest);
            QCoreApplication::processEvents();
        }
    }
    void look(const QString& where) {
        QStringList faults;
        // What the background has just told may still be on its way into the layout; a lasting fault stays.
        [[maybe_unused]] const bool isClean = QTest::qWaitFor([&] {
            settle();
            faults = faultsOf(*window_.operator->());
            return faults.isEmpty();
        });
        QVERIFY2(faults.isEmpty(),
                 qPrintable(where + QStringLiteral(":\n    ") + faults.join(QStringLiteral("\n    "))));
    }

  private Q_SLOTS:
    void initTestCase() {
        applyTheme(*qApp); // its fonts and margins
        window_.open(clips_.moving(QStringLiteral("clip.mp4"), 24,
                                   {QStringLiteral("-c:v"), QStringLiteral("libx264")}));
    }
    void init() {
        // On an in-between, about which there is most to say.
        window_->setFocus();
        QTest::keyClick(window_.operator->(), Qt::Key_Home);
        QTest::keyClick(window_.operator->(), Qt::Key_Right);
        QTRY_VERIFY(window_.find<QLabel>("sentence")->text().contains(QStringLiteral("doubt")));
    }
    void cleanupTestCase() { window_.close(); }

    /// What looks for faults finds those that are put in.
    void faultsAreFound() {
        settle();
        QVERIFY(faultsOf(*window_.operator->()).isEmpty());
        QLabel cut(QStringLiteral("Far more than has room here"), window_.operator->());
        cut.setGeometry(300, 4, 40, 20);
        QPushButton off(QStringLiteral("Off"), window_.operator->());
        off.setGeometry(window_->width() - 20, 4, 60, 24);
        QLabel over(QStringLiteral("Over"), window_.operator->());
        over.setGeometry(310, 8, 60, 20);
        for (QWidget* widget :
             {static_cast<QWidget*>(&cut), static_cast<QWidget*>(&off), static_cast<QWidget*>(&over)})
            widget->show();
        const QString found = faultsOf(*window_.operator->()).join(QLatin1Char('\n'));
        for (const char* kind :
             {"cut: QLabel “Far more", "off the window: QPushButton “Off”", "over each other: "})
            QVERIFY2(found.contains(QString::fromUtf8(kind)), qPrintable(found));
        // And it looks at what there is: dozens of controls.
        const auto all = window_->findChildren<QWidget*>();
        QVERIFY(std::ranges::count_if(all, [](const QWidget* w) { return isShownControl(*w); }) > 40);
    }

    void allStepsAtAllSizes_data() {
        QTest::addColumn<QSize>("size");
        QTest::newRow("1024x768") << QSize(1024, 768);
        QTest::newRow("1280x720: 3840x2160 at 3") << QSize(1280, 720);
        QTest::newRow("1280x800") << QSize(1280, 800);
        QTest::newRow("1366x768") << QSize(1366, 768);
        QTest::newRow("1920x1080") << QSize(1920, 1080);
        QTest::newRow("2560x1440") << QSize(2560, 1440);
        QTest::newRow("3840x2160") << QSize(3840, 2160);
    }
    void allStepsAtAllSizes() {
        QFETCH(QSize, size);
        window_->resize(size);
        settle();
        QCOMPARE(window_->size(), size);
        for (const char* step : {"footageStep", "trimStep", "cleanStep", "timingStep", "inBetweensStep",
                                 "mendStep", "finishStep", "renderStep"}) {
            auto* card = window_.find<StepCard>(step);
            if (!card->isOpen()) QTest::mouseClick(card->header(), Qt::LeftButton);
            QTRY_VERIFY(card->isOpen());
            look(QLatin1String(step));
        }
        for (const auto& [step, sheet] :
             {std::pair{"timingStep", "filmStripButton"}, std::pair{"timingStep", "compareButton"},
              std::pair{"mendStep", "mendingListButton"}, std::pair{"cleanStep", "sourceSheetButton"}}) {
            auto* card = window_.find<StepCard>(step);
            if (!card->isOpen()) QTest::mouseClick(card->header(), Qt::LeftButton);
            auto* button = window_.find<QAbstractButton>(sheet);
            QTRY_VERIFY(button->isVisible() && button->isEnabled());
            button->click();
            look(QLatin1String(sheet));
            button->click();
        }
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        auto* help = window_.find<HelpWindow>("helpWindow");
        for (int page = 0; page < help->count(); ++page) {
            help->setCurrentIndex(page);
            settle();
            const QStringList faults = faultsOf(*help);
            QVERIFY2(faults.isEmpty(),
                     qPrintable(help->tabText(page) + faults.join(QStringLiteral("\n    "))));
        }
        help->hide();
    }
};

QTEST_MAIN(TestScreens)
#include "test_screens.moc"
