#include "app/look/value_field.h"

#include <QKeyEvent>
#include <QStyle>
#include <QWheelEvent>

#include <cstdlib>

namespace yarngap::app {

namespace {

constexpr int pixelsPerStep = 4;
constexpr int dragThreshold = 4;

} // namespace

ValueField::ValueField(const QString& accessibleName, QWidget* parent)
    : QLineEdit(parent) {
    setAccessibleName(accessibleName);
    setAlignment(Qt::AlignRight);
    setFocusPolicy(Qt::TabFocus); // a press may begin a drag; the release gives the focus
    setCursor(Qt::SizeHorCursor);
    setContextMenuPolicy(Qt::NoContextMenu);
    connect(this, &QLineEdit::returnPressed, this, [this] {
        commit();
        // Done with typing: the keys belong to the transport again. A refused value stays to be mended.
        if (!property("wrong").toBool()) clearFocus();
    });
}

void ValueField::setShown(const QString& text) {
    shown_ = text;
    setWrong(false);
    if (hasFocus() && isModified()) return; // do not pull the text from under the typist
    setText(text);
    setModified(false);
}

void ValueField::refuse(const QString& sentence) {
    setWrong(true);
    setToolTip(sentence);
    Q_EMIT refused(sentence);
}

void ValueField::setWrong(bool wrong) {
    if (property("wrong").toBool() == wrong) return;
    setProperty("wrong", wrong);
    style()->unpolish(this);
    style()->polish(this);
    if (!wrong) {
        setToolTip({});
        Q_EMIT refused({});
    }
}

void ValueField::commit() {
    if (!isModified()) return;
    setModified(false);
    const QString entered = text();
    Q_EMIT typed(entered);
    if (!property("wrong").toBool()) {
        setText(shown_);
        if (hasFocus()) selectAll();
    } else {
        setModified(true); // stays to be mended
    }
}

void ValueField::keyPressEvent(QKeyEvent* event) {
    const int size = event->modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1;
    switch (event->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
        commit();
        Q_EMIT stepped(event->key() == Qt::Key_Up ? size : -size, false);
        selectAll();
        return;
    case Qt::Key_Escape:
        setModified(false);
        setWrong(false);
        setText(shown_);
        clearFocus();
        return;
    default:
        QLineEdit::keyPressEvent(event);
    }
}

void ValueField::wheelEvent(QWheelEvent* event) {
    if (!hasFocus() || event->angleDelta().y() == 0) {
        event->ignore();
        return;
    }
    Q_EMIT stepped(event->angleDelta().y() > 0 ? 1 : -1, false);
}

void ValueField::mousePressEvent(QMouseEvent* event) {
    if (!hasFocus() && event->button() == Qt::LeftButton) {
        dragPossible_ = true;
        dragging_ = false;
        dragX_ = static_cast<int>(event->globalPosition().x());
        return;
    }
    QLineEdit::mousePressEvent(event);
}

void ValueField::mouseMoveEvent(QMouseEvent* event) {
    if (!dragPossible_) {
        QLineEdit::mouseMoveEvent(event);
        return;
    }
    const int moved = static_cast<int>(event->globalPosition().x()) - dragX_;
    if (!dragging_ && std::abs(moved) < dragThreshold) return;
    dragging_ = true;
    if (const int steps = moved / pixelsPerStep; steps != 0) {
        dragX_ += steps * pixelsPerStep;
        Q_EMIT stepped(steps, true);
    }
}

void ValueField::mouseReleaseEvent(QMouseEvent* event) {
    if (!dragPossible_) {
        QLineEdit::mouseReleaseEvent(event);
        return;
    }
    dragPossible_ = false;
    if (!dragging_) {
        setFocus(Qt::MouseFocusReason);
        selectAll();
    }
    dragging_ = false;
}

void ValueField::focusInEvent(QFocusEvent* event) {
    QLineEdit::focusInEvent(event);
    setCursor(Qt::IBeamCursor);
    selectAll();
}

void ValueField::focusOutEvent(QFocusEvent* event) {
    commit();
    if (!property("wrong").toBool()) setText(shown_);
    setCursor(Qt::SizeHorCursor);
    QLineEdit::focusOutEvent(event);
}

} // namespace yarngap::app
