// The buttons over the lanes of the thread chart.

#include "app/chart/thread_chart.h"

namespace yarngap::app {

using namespace chart;

void ThreadChart::chooseUnit() {
    unit_ = static_cast<Unit>((static_cast<int>(unit_) + 1) % 3);
    unitButton_->setText(unit_ == Unit::frames    ? tr("Frames")
                         : unit_ == Unit::seconds ? tr("Seconds")
                                                  : tr("Timecode"));
    placeButtons();
}

void ThreadChart::chooseAnchor() {
    anchor_ = static_cast<Anchor>((static_cast<int>(anchor_) + 1) % 3);
    placeButtons();
}

LaneKeeping ThreadChart::keeping() const {
    return {.keeping = keepLength_->isChecked() ? Keeping::length : Keeping::speeds,
            .anchor = anchor_,
            .playhead = Rational(player_.playhead()),
            .mediaFrames = plan_ ? plan_->mediaFrames : 0};
}

void ThreadChart::placeButtons() {
    anchorButton_->setVisible(keepLength_->isChecked());
    anchorButton_->setText(anchor_ == Anchor::first      ? tr("First stays")
                           : anchor_ == Anchor::playhead ? tr("Playhead stays")
                                                         : tr("Last stays"));
    int x = width() - static_cast<int>(rightMargin);
    for (QToolButton* button :
         {fitButton_, inButton_, outButton_, unitButton_, anchorButton_, keepLength_, curveButton_}) {
        if (button == anchorButton_ && !keepLength_->isChecked()) continue;
        button->adjustSize();
        x -= button->width();
        button->move(x, 3);
        x -= 4;
    }
    headerRight_ = curveButton_->x() - 12;
    redraw();
}

} // namespace yarngap::app
