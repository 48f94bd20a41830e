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
    if (released || happened->type() == QEvent::WindowDeactivate) {
        gapView_->stage().flick(0);
        if (gapView_->stage().isHeldInstead()) gapView_->showInstead(nullptr, {});
        gapView_->sourceSheet().endFlick();
    }
    if (happened->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, happened);
    QWidget* focus = QApplication::focusWidget();
    if (focus != nullptr && focus->window() != this) return QWidget::eventFilter(watched, happened);
    if (qobject_cast<QLineEdit*>(focus) || qobject_cast<QComboBox*>(focus) ||
        QApplication::activePopupWidget())
        return QWidget::eventFilter(watched, happened);
    if (!watched->isWidgetType() || (focus && watched != focus))
        return QWidget::eventFilter(watched, happened);
    const auto* key = static_cast<QKeyEvent*>(happened);
    if (focus && focus->property("takesArrows").toBool()) // it moves what it shows by them
        for (const int own : {Qt::Key_Left, Qt::Key_Right, Qt::Key_Home, Qt::Key_End})
            if (key->key() == own) return QWidget::eventFilter(watched, happened);
    // Space always plays, as an editor's hand expects; Enter presses the focused button instead.
    if (auto* button = qobject_cast<QAbstractButton*>(focus);
        button && (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter)) {
        button->click();
        return true;
    }
    if (handleKey(key->key(), key->modifiers())) return true;
    return QWidget::eventFilter(watched, happened);
}

void MainWindow::prepareKeys() {
    const auto goTo = [this](qint64 output) { return [this, output] { player_.goTo(output); }; };
    const auto step = [this](int by) { return [this, by] { player_.goTo(player_.playhead() + by); }; };
    const auto toOriginal = [this](int direction) {
        return [this, direction] { gapView_->goToOriginal(direction); };
    };
    const auto shuttle = [this](int direction) { return [this, direction] { player_.shuttle(direction); }; };
    const auto flick = [this](int direction) { // while it is held
        return [this, direction] { gapView_->stage().flick(direction); };
    };
    const auto overlay = [this](Overlay one) { return [this, one] { gapView_->tools().toggle(one); }; };
    const auto method = [this](Method one) { return [this, one] { inBetweens_->setMethod(one); }; };
    LoopControls& loops = gapView_->loops();
    keys_ = {
        {Qt::Key_Space, [this] { player_.togglePlay(); }, [&loops] { loops.readyThenPlay(); }},
        {Qt::Key_G, [&loops] { loops.toggleLoop(); }, [&loops] { loops.toggleThereAndBack(); }},
        {Qt::Key_J, shuttle(-1)},
        {Qt::Key_K, [this] { player_.pause(); }},
        {Qt::Key_L, shuttle(1)},
        {Qt::Key_Left, step(-1), toOriginal(-1)},
        {Qt::Key_Right, step(1), toOriginal(1)},
        {Qt::Key_Home, goTo(0)},
        {Qt::Key_End, [this] { player_.goTo(player_.frames() - 1); }},
        {Qt::Key_Comma, flick(-1)},
        {Qt::Key_Period, flick(1)},
        {Qt::Key_C, [this] { compare(!gapView_->isComparing()); }},
        {Qt::Key_F, [this] { gapView_->showFilmStrip(!gapView_->showsFilmStrip()); }},
        {Qt::Key_S, [this] { showSourceSheet(!gapView_->showsSourceSheet()); }},
        {Qt::Key_B, [this] { showWithoutMends(true); }}, // while it is held
        {Qt::Key_U, [this] { showUnfinished(); }},       // likewise
        {Qt::Key_BracketLeft, [this] { goToDoubtful(-1); }},
        {Qt::Key_BracketRight, [this] { goToDoubtful(1); }},
        {Qt::Key_F11, [this] { showFullScreenStage(!fullScreenStage_); }},
        {Qt::Key_V, overlay(Overlay::vectors)},
        {Qt::Key_T, overlay(Overlay::trust)},
        {Qt::Key_D, overlay(Overlay::difference)},
        {Qt::Key_M, overlay(Overlay::madeFrom)},
        {Qt::Key_I, [this] { trim_->setInAtPlayhead(); }},
        {Qt::Key_O, [this] { trim_->setOutAtPlayhead(); }},
        {Qt::Key_1, method(Method::sample)},
        {Qt::Key_2, method(Method::blend)},
        {Qt::Key_3, method(Method::flow)},
    };
}

bool MainWindow::handleKey(int key, Qt::KeyboardModifiers modifiers) {
    if (!plan()) return false;
    if (gapView_->showsSourceSheet()) {
        if (gapView_->sourceSheet().handleKey(key, modifiers)) return true;
        // What would play or trim behind the sheet has no place here.
        if (key != Qt::Key_S && key != Qt::Key_F && key != Qt::Key_C) return false;
    }
    // While an outline or a guide is drawn, they move its points.
    if (!gapView_->hasOverlay() && !gapView_->guideSheet() && modifiers == Qt::ControlModifier &&
        (key == Qt::Key_Left || key == Qt::Key_Right)) {
        gapView_->goToGap(key == Qt::Key_Left ? -1 : 1);
        return true;
    }
    if (key == Qt::Key_Escape && fullScreenStage_) {
        showFullScreenStage(false);
        return true;
    }
    return act(keys_, key, modifiers);
}

} // namespace yarngap::app
