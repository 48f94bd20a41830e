#include "app/look/choice_box.h"

#include "app/look/theme.h"

#include <QPainterPath>
#include <QStyleOptionComboBox>
#include <QStylePainter>
#include <QWheelEvent>

namespace yarngap::app {

ChoiceBox::ChoiceBox(QWidget* parent)
    : QComboBox(parent) {
    setFocusPolicy(Qt::StrongFocus);
    connect(this, &QComboBox::activated, this, [this] {
        if (byMouse_) clearFocus();
    });
}

QRect ChoiceBox::textPlace() const {
    QStyleOptionComboBox option;
    initStyleOption(&option);
    return style()->subControlRect(QStyle::CC_ComboBox, &option, QStyle::SC_ComboBoxEditField, this);
}

void ChoiceBox::paintEvent(QPaintEvent* /*event*/) {
    QStylePainter p(this);
    QStyleOptionComboBox option;
    initStyleOption(&option);
    option.currentText = fontMetrics().elidedText(option.currentText, Qt::ElideRight, textPlace().width());
    p.drawComplexControl(QStyle::CC_ComboBox, option);
    p.drawControl(QStyle::CE_ComboBoxLabel, option);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(
        QPen(isEnabled() ? shades().faint : shades().seam, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const QPointF tip(width() - 10.0, height() / 2.0 + 2);
    QPainterPath arrow(tip - QPointF(3.5, 3.5));
    arrow.lineTo(tip);
    arrow.lineTo(tip + QPointF(3.5, -3.5));
    p.drawPath(arrow);
}

void ChoiceBox::wheelEvent(QWheelEvent* event) {
    if (hasFocus())
        QComboBox::wheelEvent(event);
    else
        event->ignore();
}

void ChoiceBox::mousePressEvent(QMouseEvent* event) {
    byMouse_ = true;
    QComboBox::mousePressEvent(event);
}

void ChoiceBox::keyPressEvent(QKeyEvent* event) {
    byMouse_ = false;
    QComboBox::keyPressEvent(event);
}

} // namespace yarngap::app
