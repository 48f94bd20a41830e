// What is drawn over the stage or instead of it: outlines of mattes and patches, guides, the frame without.

#include "app/stage/gap_view.h"

#include <QApplication>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

void GapView::editMatte(const Matte& matte) {
    if (!plan_) return;
    closeTries();
    leaveGuide();
    showFilmStrip(false);
    showSourceSheet(false);
    leaveOverlays();
    delete matteOverlay_;
    matteOverlay_ =
        newOutline({"matteOverlay", tr("Outline of the matte"), tr("Click around the subject. Esc leaves.")});
    connect(matteOverlay_, &OutlineOverlay::outlined, this, &GapView::changeMatte);
    connect(matteOverlay_, &OutlineOverlay::pointAdded, this, [this](std::size_t after) {
        Q_EMIT matteEdited(withPoint(matte_, after), tr("add point to matte"));
    });
    connect(matteOverlay_, &OutlineOverlay::pointRemoved, this, [this](std::size_t point) {
        Q_EMIT matteEdited(withoutPoint(matte_, point), tr("take point off matte"));
    });
    connect(matteOverlay_, &OutlineOverlay::left, this, &GapView::leaveMatte);
    setMatte(matte);
    matteOverlay_->setFocus();
    Q_EMIT sourcePlacesNeeded();
}

OutlineOverlay* GapView::newOutline(const OutlineWords& words) {
    auto* overlay = new OutlineOverlay([this] { return stage_->placeOfPicture(); }, facts_.width,
                                       facts_.height, words, stage_);
    connect(overlay, &OutlineOverlay::hintChanged, this, &GapView::refreshSentence);
    return overlay;
}

void GapView::changeMatte(const std::vector<PicturePoint>& outline, OutlineOverlay::Change change) {
    const QString what = change == OutlineOverlay::Change::drawn        ? tr("draw matte")
                         : change == OutlineOverlay::Change::pointMoved ? tr("move matte point")
                                                                        : tr("move matte");
    Q_EMIT matteEdited(withKey(matte_, nearestSourceFrame(), outline), what);
}

void GapView::setMatte(const Matte& matte) {
    matte_ = matte;
    if (!matteOverlay_) return;
    if (!matte.pictures.empty()) return leaveMatte(); // there is nothing to draw on
    if (matte.keys.empty()) return matteOverlay_->startPlacing();
    const std::int64_t frame = nearestSourceFrame();
    const bool isKey = std::ranges::any_of(matte.keys, [&](const MatteKey& k) { return k.frame == frame; });
    matteOverlay_->show(
        outlineAt(matte, frame), isKey,
        (isKey ? tr("Key at source frame %1.") : tr("Source frame %1, between keys.")).arg(frame));
}

template <typename Overlay>
void GapView::giveBack(QPointer<Overlay>& overlay) {
    if (overlay->hasFocus()) window()->setFocus();
    overlay->hide();
    overlay->setObjectName({}); // another one may take its place before it is gone
    overlay->deleteLater();     // this may be its own signal
    overlay = nullptr;
    refreshSentence();
    sentence_->settle(); // it needs no line for hints any more
    Q_EMIT sourcePlacesNeeded();
}

void GapView::leaveMatte() {
    if (!matteOverlay_) return;
    giveBack(matteOverlay_);
    Q_EMIT matteLeft();
}

void GapView::editPatch(bool isNew) {
    if (!plan_) return;
    closeTries();
    leaveGuide();
    showFilmStrip(false);
    showSourceSheet(false);
    leaveOverlays();
    delete patchOverlay_;
    patchOverlay_ = newOutline(
        {"patchOverlay", tr("Outline of the patch"), tr("Click around the place to patch. Esc leaves.")});
    connect(patchOverlay_, &OutlineOverlay::outlined, this, &GapView::patchOutlined);
    connect(patchOverlay_, &OutlineOverlay::pointAdded, this, &GapView::patchPointAdded);
    connect(patchOverlay_, &OutlineOverlay::pointRemoved, this, &GapView::patchPointRemoved);
    connect(patchOverlay_, &OutlineOverlay::left, this, &GapView::leavePatch);
    if (isNew)
        patchOverlay_->startPlacing();
    else
        showPatchOutline({}, false, tr("Finding where the outline has gone…"));
    patchOverlay_->setFocus();
    Q_EMIT sourcePlacesNeeded();
}

void GapView::showPatchOutline(const std::vector<PicturePoint>& outline, bool isKey, const QString& where) {
    if (patchOverlay_) patchOverlay_->show(outline, isKey, where);
}

void GapView::leavePatch() {
    if (!patchOverlay_) return;
    giveBack(patchOverlay_);
    Q_EMIT patchLeft();
}

void GapView::editPlace() {
    if (!plan_) return;
    closeTries();
    leaveGuide();
    showFilmStrip(false);
    showSourceSheet(false);
    leaveOverlays();
    placeOverlay_ = new PlaceOverlay([this] { return stage_->placeOfPicture(); }, stage_);
    connect(placeOverlay_, &PlaceOverlay::placed, this, &GapView::placeEdited);
    connect(placeOverlay_, &PlaceOverlay::left, this, &GapView::leavePlace);
    stage_->setFit();
    placeOverlay_->QWidget::show();
    placeOverlay_->setFocus();
    refreshSentence();
}

void GapView::showPlace(const PlaceOverlay::Place& place, QSize frame,
                        const std::array<QPointF, 4>& corners) {
    if (placeOverlay_) placeOverlay_->show(place, frame, corners);
}

void GapView::leavePlace() {
    if (!placeOverlay_) return;
    giveBack(placeOverlay_);
    Q_EMIT placeLeft();
}

void GapView::editHold(bool isSecond) {
    if (!plan_) return;
    closeTries();
    leaveGuide();
    showFilmStrip(false);
    showSourceSheet(false);
    leaveOverlays();
    holdOverlay_ = new HoldOverlay([this] { return stage_->placeOfPicture(); }, facts_.width, facts_.height,
                                   isSecond, stage_);
    connect(holdOverlay_, &HoldOverlay::chosen, this, &GapView::holdChosen);
    connect(holdOverlay_, &HoldOverlay::put, this, &GapView::holdPut);
    connect(holdOverlay_, &HoldOverlay::left, this, &GapView::leaveHold);
    connect(holdOverlay_, &HoldOverlay::hintChanged, this, &GapView::refreshSentence);
    holdOverlay_->QWidget::show();
    holdOverlay_->setFocus();
    Q_EMIT sourcePlacesNeeded();
}

void GapView::showHold(const FollowedPath& path, double reach) {
    if (!holdOverlay_ || !plan_ || plan_->rows.empty()) return;
    const auto at = std::clamp<qint64>(player_.playhead(), 0, static_cast<qint64>(plan_->rows.size()) - 1);
    const PlanRow& row = plan_->rows[static_cast<std::size_t>(at)];
    const bool isMade = row.kind == FrameKind::flow || row.kind == FrameKind::blend;
    holdOverlay_->show(path, path.empty() ? usualReach(facts_.width) : reach,
                       isMade ? std::nullopt : std::optional(row.first));
}

void GapView::leaveHold() {
    if (!holdOverlay_) return;
    giveBack(holdOverlay_);
    Q_EMIT holdLeft();
}

void GapView::leaveOverlays() {
    leaveMatte();
    leavePatch();
    leavePlace();
    leaveHold();
}

QStringList GapView::overlayHints() const {
    QStringList hints;
    for (const OutlineOverlay* overlay : {matteOverlay_.data(), patchOverlay_.data()})
        if (overlay) hints << overlay->hint();
    if (placeOverlay_) hints << placeOverlay_->hint();
    if (holdOverlay_) hints << holdOverlay_->hint();
    return hints;
}

void GapView::editGuide(const Guide& guide) {
    if (!plan_) return;
    closeTries();
    showFilmStrip(false);
    showSourceSheet(false);
    leaveOverlays();
    delete guide_;
    guide_ = new GuideSheet(facts_.width, facts_.height,
                            facts_.width * facts_.pixelAspect.toDouble() / std::max(1, facts_.height), this);
    guide_->setGuide(guide);
    connect(guide_, &GuideSheet::edited, this, &GapView::guideEdited);
    connect(guide_, &GuideSheet::left, this, &GapView::leaveGuide);
    static_cast<QVBoxLayout*>(layout())->insertWidget(0, guide_, 1);
    stage_->hide();
    requestGuidePictures();
    refreshGuide();
    refreshProbe();
    refreshSentence();
    refreshTransport();
    guide_->show();
    guide_->setFocus();
    Q_EMIT sourcePlacesNeeded();
}

/// A loupe needs the pixels of the shot.
void GapView::requestGuidePictures() {
    constexpr int most = 4096;
    preview_.setSizes({std::min(most, facts_.width), std::min(most, facts_.height)}, {128, 128});
}

void GapView::setGuide(const Guide& guide) {
    if (!guide_) return;
    guide_->setGuide(guide);
    refreshGuide();
}

void GapView::leaveGuide() {
    if (!guide_) return;
    const QWidget* focused = QApplication::focusWidget();
    if (focused == guide_ || guide_->isAncestorOf(focused)) window()->setFocus();
    guide_->hide();
    guide_->deleteLater(); // this may be its own signal
    guide_ = nullptr;
    stage_->setVisible(!strip_->isVisibleTo(this) && !showsSourceSheet());
    stage_->setFit(); // which asks for pictures of its own size again
    refreshProbe();
    refreshSentence();
    refreshTransport();
    Q_EMIT guideLeft();
    Q_EMIT sourcePlacesNeeded();
}

void GapView::refreshGuide() {
    if (!guide_ || !plan_) return;
    const qint64 playhead = player_.playhead();
    const PlanRow& row = plan_->rows[static_cast<std::size_t>(playhead)];
    const Guide& guide = guide_->guide();
    if (row.first != guide.first || row.last != guide.last) return leaveGuide(); // another gap
    const auto large = [this](std::int64_t n) {
        const PreviewPicturePtr picture = preview_.largeSourcePicture(n);
        return picture ? picture->image : QImage();
    };
    guide_->setPictures(large(guide.first), large(guide.last));
    const PreviewPicturePtr made = preview_.picture(playhead);
    guide_->setMade(made ? made->image : QImage(), preview_.insight(playhead), !made || made->draft);
}

void GapView::showInstead(const OutputFramesPtr& version, const QString& name) {
    if (!version) {
        stage_->showInstead(nullptr, {});
        if (instead_) instead_->setShot(nullptr);
        return;
    }
    if (!instead_) {
        instead_ = std::make_unique<Preview>();
        for (const auto signal : {&Preview::pictureReady, &Preview::draftReady})
            connect(instead_.get(), signal, this, [this] { stage_->update(); });
    }
    const MediaFacts& facts = version->facts();
    stage_->showInstead(instead_.get(), name,
                        facts.width * facts.pixelAspect.toDouble() / std::max(1, facts.height));
    instead_->want(player_.playhead(), 1);
    instead_->setShot(version);
}

} // namespace yarngap::app
