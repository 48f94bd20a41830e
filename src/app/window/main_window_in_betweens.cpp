// What the step In-betweens asks of the stage.

#include "app/window/main_window.h"

namespace yarngap::app {

void MainWindow::connectInBetweens() {
    connect(inBetweens_, &InBetweensStep::tryAsked, this, &MainWindow::tryFour);
    connect(gapView_, &GapView::settingsChosen, this, [this](const InBetweens& chosen) {
        if (!document_.current()) return;
        Shot shot = *document_.current();
        shot.inBetweens = chosen;
        document_.edit(tr("settings tried"), shot);
    });
    connect(&inBetweens_->matte(), &MatteSettings::drawAsked, this, [this](bool on) {
        const Shot* shot = document_.current();
        if (on && shot && plan()) {
            player_.pause();
            compare(false);
            gapView_->editMatte(shot->matte);
        } else {
            gapView_->leaveMatte();
            inBetweens_->matte().setDrawing(false);
        }
    });
    connect(gapView_, &GapView::matteLeft, this, [this] { inBetweens_->matte().setDrawing(false); });
    connect(gapView_, &GapView::matteEdited, this, [this](const Matte& matte, const QString& what) {
        if (!document_.current()) return;
        Shot shot = *document_.current();
        shot.matte = matte;
        document_.edit(what, shot);
    });
}

void MainWindow::tryFour() {
    const Shot* shot = document_.current();
    if (!shot || !plan() || plan()->rows.empty()) return;
    player_.pause();
    const PlanRow& row = plan()->rows[static_cast<std::size_t>(player_.playhead())];
    if (row.kind != FrameKind::flow) {
        showTrouble(tr("Output %1 is not made by optical flow. Go to a frame that is, and try again.")
                        .arg(row.output));
        return;
    }
    std::array<Try, 4> tries = triesOf(plan()->settings[row.settings].inBetweens);
    for (Try& one : tries) {
        Shot version = *shot;
        version.inBetweens = one.settings;
        one.frames = shown_.ready(version).frames;
    }
    gapView_->tryFour(tries, row.output);
}

} // namespace yarngap::app
