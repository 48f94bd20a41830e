// What the step Finish asks of the stage.

#include "app/window/main_window.h"

#include "app/steps/step_edits.h"
#include "core/finish/finish_geometry.h"
#include "core/finish/frames_with_finish.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap::app {

void MainWindow::connectFinish() {
    FrameRow& frame = finish_->frame();
    HoldRow& hold = finish_->hold();
    connect(&frame, &FrameRow::placeAsked, this, [this](bool on) {
        if (!on || !plan()) return gapView_->leavePlace();
        player_.pause();
        compare(false);
        gapView_->editPlace();
        showPlace();
    });
    connect(&frame, &FrameRow::marksAsked, this, [this](bool safeAreas, bool thirds, bool centre) {
        marks_ = {safeAreas, thirds, centre};
        gapView_->stage().setMarks(gapView_->needsSourcePlaces() ? PictureStage::Marks() : marks_);
    });
    connect(gapView_, &GapView::placeEdited, this, &MainWindow::takePlace);
    connect(gapView_, &GapView::placeLeft, this, [this] { finish_->frame().setPlacing(false); });
    connect(&hold, &HoldRow::chooseAsked, this, &MainWindow::chooseHold);
    connect(gapView_, &GapView::holdChosen, this, [this](const PicturePoint& at, double reach) {
        const PlanRow& row = plan()->rows[static_cast<std::size_t>(player_.playhead())];
        finish_->hold().choose(choosing_, row.first, at, reach);
    });
    connect(gapView_, &GapView::holdPut, this, [this](const PicturePoint& at) {
        const PlanRow& row = plan()->rows[static_cast<std::size_t>(player_.playhead())];
        finish_->hold().put(choosing_, row.first, at);
    });
    connect(gapView_, &GapView::holdLeft, this, [this] {
        choosing_ = HoldRow::Choosing::nothing;
        finish_->hold().setChoosing(choosing_);
    });
    connect(gapView_, &GapView::sourcePlacesNeeded, this, &MainWindow::putOnStage);
    connect(&player_, &Player::moved, this, [this] {
        if (player_.speed() != 0) return;
        showPlace();
        showHold();
        // Fields that have keys show the values at this frame.
        const Shot* shot = document_.current();
        if (shot && (shot->finish.places.size() > 1 || shot->finish.tones.size() > 1))
            (void)finish_->refresh();
    });
    connect(&gapView_->stage(), &PictureStage::shown, this, &MainWindow::showHistogram);
    // What is found for one shot is not for another, though it be of the same file.
    connect(&document_, &Document::currentChanged, &finishWork_, &FinishWork::cancel);
}

OutputFramesPtr MainWindow::stageFrames() const {
    return gapView_->needsSourcePlaces() ? shown_.unfinished() : shown_.frames();
}

void MainWindow::putOnStage() {
    gapView_->stage().setMarks(gapView_->needsSourcePlaces() ? PictureStage::Marks() : marks_);
    const auto timing = document_.currentTiming();
    if (!plan() || !timing || !document_.current() || document_.current()->finish.isNothing()) return;
    preview_.setShot(stageFrames());
    gapView_->setShot(plan(), *timing, stageFrames()->facts(), shown_.footage().axis->facts(),
                      gapView_->sourceTimecode());
}

void MainWindow::showUnfinished() {
    const Shot* shot = document_.current();
    if (!shot || !plan() || shot->finish.isNothing() || gapView_->needsSourcePlaces()) return;
    gapView_->showInstead(shown_.unfinished(), tr("without finish"));
}

void MainWindow::showPlace() {
    const Shot* shot = document_.current();
    if (!gapView_->editsPlace() || !shot || !plan()) return;
    const MediaFacts& source = shown_.footage().axis->facts();
    const FinishGeometry geometry(shot->finish, source);
    const FinishPlace place = finishPlaceOf(*plan(), player_.playhead());
    const Plane toResult = geometry.toResult(place, hidingScaleAt(shot->finish.hideEdges, place.at));
    const FrameSize& size = geometry.result().size;
    const auto share = [&](double x, double y) {
        const PicturePoint p = toResult({x, y});
        return QPointF(p.x / size.width, p.y / size.height);
    };
    const double w = source.width;
    const double h = source.height;
    const PlaceKey now = finish_->frame().placeNow();
    gapView_->showPlace({now.scale, now.x, now.y}, {size.width, size.height},
                        {share(0, 0), share(w, 0), share(w, h), share(0, h)});
}

void MainWindow::takePlace(const PlaceOverlay::Place& place, bool isDragged) {
    finish_->frame().placeAt(place.scale, place.x, place.y, isDragged ? editPlaceDragged : 0);
}

void MainWindow::chooseHold(HoldRow::Choosing what) {
    if (what == HoldRow::Choosing::nothing || !plan() || plan()->rows.empty()) return gapView_->leaveHold();
    player_.pause();
    compare(false);
    // A point is chosen where it was filmed, not where it was made.
    const PlanRow& row = plan()->rows[static_cast<std::size_t>(player_.playhead())];
    if (row.kind == FrameKind::flow || row.kind == FrameKind::blend) {
        const qint64 before = player_.playhead();
        gapView_->goToOriginal(-1);
        if (player_.playhead() == before) gapView_->goToOriginal(1);
    }
    gapView_->editHold(what == HoldRow::Choosing::second);
    choosing_ = what;
    finish_->hold().setChoosing(what);
    showHold();
}

void MainWindow::showHold() {
    const Shot* shot = document_.current();
    if (!gapView_->editsHold() || !shot) return;
    const Hold& hold = shot->finish.hold;
    gapView_->showHold(choosing_ == HoldRow::Choosing::second ? hold.second : hold.path, hold.reach);
}

void MainWindow::showHistogram() {
    const PreviewPicturePtr picture = plan() ? preview_.glance(player_.playhead()) : nullptr;
    if (picture && !picture->image.isNull())
        finish_->tone().setHistogram(picture->histogram);
    else
        finish_->tone().setHistogram(std::nullopt);
}

} // namespace yarngap::app
