// The keys of the transport, wherever the focus is.

#include "app/window/main_window.h"

#include <QAbstractButton>
#include <QApplication>
#include <QComboBox>
#include <QKeyEvent>
#include <QLineEdit>

namespace yarngap::app {

bool MainWindow::eventFilter(QObject* watched, QEvent* happened) {
    // The keys of the transport work wherever the focus is, but for fields that take text.
    const bool released = happened->type() == QEvent::KeyRelease;
    if (released && static_cast<QKeyEvent*>(happened)->isAutoRepeat())
        return QWidget::eventFilter(watched, happened);
    if (released || happened->type() == QEvent::WindowDeactivate) gapView_->stage().flick(0);
    if (happened->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, happened);
    QWidget* focus = QApplication::focusWidget();
    if (focus != nullptr && focus->window() != this) return QWidget::eventFilter(watched, happened);
    if (qobject_cast<QLineEdit*>(focus) || qobject_cast<QComboBox*>(focus) ||
        QApplication::activePopupWidget())
        return QWidget::eventFilter(watched, happened);
    if (!watched->isWidgetType() || (focus && watched != focus))
        return QWidget::eventFilter(watched, happened);
    const auto* key = static_cast<QKeyEvent*>(happened);
    // Space always plays, as an editor's hand expects; Enter presses the focused button instead.
    if (auto* button = qobject_cast<QAbstractButton*>(focus);
        button && (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter)) {
        button->click();
        return true;
    }
    if (handleKey(key->key(), key->modifiers())) return true;
    return QWidget::eventFilter(watched, happened);
}

bool MainWindow::handleKey(int key, Qt::KeyboardModifiers modifiers) {
    const bool shift = modifiers == Qt::ShiftModifier;
    // While a matte is drawn, they move its points.
    if (plan_ && !gapView_->editsMatte() && modifiers == Qt::ControlModifier &&
        (key == Qt::Key_Left || key == Qt::Key_Right)) {
        gapView_->goToGap(key == Qt::Key_Left ? -1 : 1);
        return true;
    }
    if (!plan_ || (modifiers != Qt::NoModifier && modifiers != Qt::KeypadModifier && !shift)) return false;
    switch (key) {
    case Qt::Key_Space:
        shift ? gapView_->loops().readyThenPlay() : player_.togglePlay();
        return true;
    case Qt::Key_G:
        shift ? gapView_->loops().toggleThereAndBack() : gapView_->loops().toggleLoop();
        return true;
    case Qt::Key_J:
        player_.shuttle(-1);
        return true;
    case Qt::Key_K:
        player_.pause();
        return true;
    case Qt::Key_L:
        player_.shuttle(1);
        return true;
    case Qt::Key_Left:
        shift ? gapView_->goToOriginal(-1) : player_.goTo(player_.playhead() - 1);
        return true;
    case Qt::Key_Right:
        shift ? gapView_->goToOriginal(1) : player_.goTo(player_.playhead() + 1);
        return true;
    case Qt::Key_C:
        refreshCompare(!gapView_->isComparing());
        return true;
    case Qt::Key_F:
        gapView_->showFilmStrip(!gapView_->showsFilmStrip());
        return true;
    case Qt::Key_F11:
        showFullScreenStage(!fullScreenStage_);
        return true;
    case Qt::Key_Escape:
        if (!fullScreenStage_) return false;
        showFullScreenStage(false);
        return true;
    case Qt::Key_Comma: // while it is held
        gapView_->stage().flick(-1);
        return true;
    case Qt::Key_Period:
        gapView_->stage().flick(1);
        return true;
    case Qt::Key_V:
        gapView_->tools().toggle(Overlay::vectors);
        return true;
    case Qt::Key_T:
        gapView_->tools().toggle(Overlay::trust);
        return true;
    case Qt::Key_D:
        gapView_->tools().toggle(Overlay::difference);
        return true;
    case Qt::Key_M:
        gapView_->tools().toggle(Overlay::madeFrom);
        return true;
    case Qt::Key_Home:
        player_.goTo(0);
        return true;
    case Qt::Key_End:
        player_.goTo(player_.frames() - 1);
        return true;
    case Qt::Key_I:
        trim_->setInAtPlayhead();
        return true;
    case Qt::Key_O:
        trim_->setOutAtPlayhead();
        return true;
    case Qt::Key_1:
        inBetweens_->setMethod(Method::sample);
        return true;
    case Qt::Key_2:
        inBetweens_->setMethod(Method::blend);
        return true;
    case Qt::Key_3:
        inBetweens_->setMethod(Method::flow);
        return true;
    default:
        return false;
    }
}

} // namespace yarngap::app
