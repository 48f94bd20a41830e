// The stage on the whole screen.

#include "app/window/main_window.h"

namespace yarngap::app {

void MainWindow::showFullScreenStage(bool on) {
    on = on && plan() != nullptr;
    if (on == fullScreenStage_) return;
    fullScreenStage_ = on;
    for (QWidget* widget : aroundStage_)
        widget->setVisible(!on && (widget != column_ || topBar_->showsColumn()));
    if (on) {
        stateBefore_ = windowState();
        setWindowState(stateBefore_ | Qt::WindowFullScreen);
    } else {
        setWindowState(stateBefore_);
    }
    gapView_->tools().setFullScreen(on);
}

} // namespace yarngap::app
