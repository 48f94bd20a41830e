#include "app/look/steady_label.h"

#include <QResizeEvent>

#include <algorithm>

namespace yarngap::app {

SteadyLabel::SteadyLabel(Room room, const QString& name, const QString& style, QWidget* parent)
    : QWidget(parent)
    , room_(room)
    , label_(new QLabel(this)) {
    label_->setObjectName(name);
    label_->setStyleSheet(style);
    label_->setWordWrap(room == Room::twoLines);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    settle();
}

void SteadyLabel::tell(const QString& text) {
    if (text == label_->text()) return;
    label_->setText(text);
    if (room_ == Room::widest && text.isEmpty())
        settle();
    else if (room_ == Room::widest)
        setMinimumWidth(std::max(minimumWidth(), label_->sizeHint().width()));
    else if (room_ == Room::twoLines)
        setFixedHeight(std::max(minimumHeight(), label_->heightForWidth(width())));
}

void SteadyLabel::settle() {
    // What a style puts around the lines is told of a text alone.
    QLabel usual(room_ == Room::twoLines ? QStringLiteral("x\nx") : QStringLiteral("x"));
    usual.setStyleSheet(label_->styleSheet());
    usual.ensurePolished();
    int height = usual.sizeHint().height();
    if (room_ == Room::twoLines) height = std::max(height, label_->heightForWidth(width()));
    if (room_ == Room::widest) setMinimumWidth(label_->text().isEmpty() ? 0 : label_->sizeHint().width());
    setFixedHeight(height);
}

void SteadyLabel::resizeEvent(QResizeEvent* resized) {
    QWidget::resizeEvent(resized);
    label_->setGeometry(rect());
    if (room_ == Room::twoLines && resized->size().width() != resized->oldSize().width()) settle();
}

} // namespace yarngap::app
