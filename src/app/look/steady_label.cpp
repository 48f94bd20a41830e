#include "app/look/steady_label.h"

#include <QResizeEvent>

#include <algorithm>

namespace yarngap::app {

SteadyLabel::SteadyLabel(QWidget* parent)
    : QLabel(parent) {
    setWordWrap(true);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

void SteadyLabel::tell(const QString& text) {
    setText(text);
    setFixedHeight(std::max(minimumHeight(), heightForWidth(width())));
}

void SteadyLabel::settle() {
    // What a style puts around the lines is told of a text alone.
    QLabel two(QStringLiteral("x\nx"));
    two.setStyleSheet(styleSheet());
    two.setFont(font());
    two.setWordWrap(true);
    two.ensurePolished();
    setMinimumHeight(0); // the height for a width is never less
    setFixedHeight(std::max(two.heightForWidth(width()), heightForWidth(width())));
}

void SteadyLabel::resizeEvent(QResizeEvent* resized) {
    QLabel::resizeEvent(resized);
    if (resized->size().width() != resized->oldSize().width()) settle();
}

} // namespace yarngap::app
