#include "support/screen_walk.h"

#include "app/look/choice_box.h"

#include <QAbstractButton>
#include <QApplication>
#include <QLabel>
#include <QScrollArea>

namespace yarngap::test {

using namespace app;

namespace {

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

bool isCut(const QWidget& widget, bool mayElide) {
    if (const auto* label = qobject_cast<const QLabel*>(&widget)) {
        if (label->property("elides").toBool()) return false; // ends in …, and says all in its tip
        if (label->wordWrap()) return label->heightForWidth(label->width()) > label->height() + 1;
        return label->sizeHint().width() > label->width() + 1 ||
               label->sizeHint().height() > label->height() + 1;
    }
    if (const auto* button = qobject_cast<const QAbstractButton*>(&widget)) {
        if (button->text().isEmpty() || qobject_cast<const StepHeader*>(button)) return false; // it elides
        if (mayElide && button->property("elides").toBool()) return false;
        return button->fontMetrics().horizontalAdvance(button->text()) > button->width() + 1;
    }
    if (const auto* box = qobject_cast<const ChoiceBox*>(&widget); box && !box->isEditable())
        return !mayElide &&
               box->fontMetrics().horizontalAdvance(box->currentText()) > box->textPlace().width() + 1;
    return false;
}

/// False when it cannot be opened.
bool openStep(const ShotWindow& window, const char* step) {
    auto* card = window.find<StepCard>(step);
    if (!card->isOpen()) QTest::mouseClick(card->header(), Qt::LeftButton);
    return QTest::qWaitFor([card] { return card->isOpen(); });
}

} // namespace

void settleLayout() {
    for (int i = 0; i < 3; ++i) {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest);
        QCoreApplication::processEvents();
    }
}

void walkScreens(const ShotWindow& window, const std::function<void(const QString&)>& look) {
    for (const char* step : {"footageStep", "trimStep", "cleanStep", "timingStep", "inBetweensStep",
                             "mendStep", "finishStep", "renderStep"}) {
        QVERIFY(openStep(window, step));
        look(QLatin1String(step));
    }
    for (const auto& [step, sheet] :
         {std::pair{"timingStep", "filmStripButton"}, std::pair{"timingStep", "compareButton"},
          std::pair{"mendStep", "mendingListButton"}, std::pair{"cleanStep", "sourceSheetButton"}}) {
        QVERIFY(openStep(window, step));
        auto* button = window.find<QAbstractButton>(sheet);
        QTRY_VERIFY(button->isVisible() && button->isEnabled());
        button->click();
        look(QLatin1String(sheet));
        button->click();
    }
}

bool isShownControl(const QWidget& widget) {
    if (!widget.isVisible() || widget.width() == 0 || widget.height() == 0) return false;
    if (const auto* label = qobject_cast<const QLabel*>(&widget)) return !label->text().isEmpty();
    return qobject_cast<const QAbstractButton*>(&widget) || qobject_cast<const QLineEdit*>(&widget) ||
           qobject_cast<const QComboBox*>(&widget);
}

QStringList faultsOf(const QWidget& window, bool mayElide) {
    QStringList faults;
    const auto children = window.findChildren<QWidget*>();
    for (const QWidget* widget : children) {
        if (!isShownControl(*widget) || widget->window() != &window) continue;
        if (isCut(*widget, mayElide)) faults << QStringLiteral("cut: ") + named(*widget);
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

} // namespace yarngap::test
