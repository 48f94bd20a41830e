// What is done by hand about the gap at the playhead: guides, patches, and seeing it without.

#include "app/window/main_window.h"

#include "core/background_priority.h"
#include "core/mending/carried_outlines.h"
#include "core/motion/guide_check.h"

#include <QLocale>

#include <algorithm>
#include <utility>

namespace yarngap::app {

namespace {

Rational positionOf(const PlanRow& row) {
    return Rational(row.position.frame) + row.position.phase;
}

/// The guide of a gap among the mends; none where there is none.
std::optional<std::size_t> guideBetween(const Mending& mending, std::int64_t first, std::int64_t last) {
    for (std::size_t i = 0; i < mending.mends.size(); ++i) {
        const auto& guide = mending.mends[i].changes.guide;
        if (guide && guide->first == first && guide->last == last) return i;
    }
    return std::nullopt;
}

} // namespace

void MainWindow::connectGapMends() {
    GapMends& gap = mend_->gap();
    connect(&gap, &GapMends::mendAsked, this, &MainWindow::editMending);
    connect(&gap, &GapMends::timingMendAsked, this, &MainWindow::mendByTiming);
    connect(&gap, &GapMends::curesAsked, this, [this] {
        const auto now = gapAtPlayhead();
        if (!now) return;
        const auto doubted = std::ranges::find(doubts_.gaps(), now->gaps.first, &DoubtfulGap::first);
        if (doubted == doubts_.gaps().end())
            return showTrouble(tr("The gaps are still being searched. Try again in a moment."));
        showMendingList(true);
        doubts_.tryCures(*doubted);
    });
    connect(&gap, &GapMends::guideAsked, this, &MainWindow::editGuide);
    connect(&gap, &GapMends::patchAsked, this, [this](bool on) { editPatch(on, true); });
    connect(&gap, &GapMends::outlineAsked, this, [this](bool on) { editPatch(on, false); });
    connect(&gap, &GapMends::selectionChanged, this, [this] {
        if (gapView_->editsPatch() && mend_->gap().selected() != patch_) gapView_->leavePatch();
    });
    connect(gapView_, &GapView::guideEdited, this, &MainWindow::takeGuide);
    connect(gapView_, &GapView::guideLeft, this, &MainWindow::showGapMends);
    connect(gapView_, &GapView::patchOutlined, this, &MainWindow::takeOutline);
    connect(gapView_, &GapView::patchPointAdded, this, [this](std::size_t after) {
        changePatch(tr("add point to patch"), [after](Patch& p) { p = withPoint(std::move(p), after); });
    });
    connect(gapView_, &GapView::patchPointRemoved, this, [this](std::size_t point) {
        changePatch(tr("take point off patch"), [point](Patch& p) { p = withoutPoint(std::move(p), point); });
    });
    connect(gapView_, &GapView::patchLeft, this, [this] {
        outlining_.request_stop();
        patch_.reset();
        showGapMends();
    });
    connect(&player_, &Player::moved, this, [this] {
        if (player_.speed() != 0) return;
        showGapMends();
        showPatchOutline();
    });
    connect(&player_, &Player::stateChanged, this, &MainWindow::showGapMends);
    connect(chart_, &ThreadChart::gapSelectionChanged, this, &MainWindow::showGapMends);
}

std::optional<GapToMend> MainWindow::gapAtPlayhead() const {
    const Shot* shot = document_.current();
    if (!shot || !plan() || plan()->rows.empty()) return std::nullopt;
    const auto at = std::clamp<qint64>(player_.playhead(), 0, static_cast<qint64>(plan()->rows.size()) - 1);
    const PlanRow& row = plan()->rows[static_cast<std::size_t>(at)];
    GapToMend gap;
    gap.isMade = row.kind == FrameKind::flow;
    if (const auto chosen = selectedGaps())
        gap.gaps = {chosen->first, chosen->second};
    else if (gap.isMade)
        gap.gaps = {row.first, row.last - 1};
    else
        gap.gaps = {row.position.frame, row.position.frame};
    if (gap.gaps.last < gap.gaps.first || gap.gaps.first < 0 || gap.gaps.first + 1 >= plan()->mediaFrames)
        return std::nullopt;
    gap.accepted = shot->mending.isAccepted(gap.gaps.first);
    const auto doubted = std::ranges::find(doubts_.gaps(), gap.gaps.first, &DoubtfulGap::first);
    if (doubted != doubts_.gaps().end()) {
        gap.words = tr("doubt %1").arg(QLocale().toString(doubted->doubt, 'f', 2));
        if (!doubted->why.empty()) gap.words += QStringLiteral(": ") + wordsFor(*doubted);
    }
    return gap;
}

void MainWindow::showGapMends() {
    const Shot* shot = document_.current();
    mend_->gap().setGap(gapAtPlayhead(), shot ? shot->mending : Mending(),
                        shot ? shot->takes : std::vector<Take>());
    mend_->gap().setDrawing(gapView_->editsPatch(), gapView_->guideSheet() != nullptr);
}

void MainWindow::editGuide(bool on) {
    const Shot* shot = document_.current();
    if (!on || !shot || !plan()) return gapView_->leaveGuide();
    const PlanRow& row = plan()->rows[static_cast<std::size_t>(player_.playhead())];
    if (row.kind != FrameKind::flow) return;
    player_.pause();
    compare(false);
    Guide guide{row.first, row.last, {}};
    if (const auto at = guideBetween(shot->mending, row.first, row.last))
        guide = *shot->mending.mends[*at].changes.guide;
    gapView_->editGuide(guide);
    checkGuide(guide);
    showGapMends();
}

void MainWindow::takeGuide(const Guide& guide, const QString& what) {
    if (!document_.current()) return;
    Mending mending = document_.current()->mending;
    const auto at = guideBetween(mending, guide.first, guide.last);
    if (guide.pairs.empty()) {
        if (at) mending.mends.erase(mending.mends.begin() + static_cast<std::ptrdiff_t>(*at));
    } else if (at) {
        mending.mends[*at].changes.guide = guide;
        mending.mends[*at].isOn = true; // or nobody would see what it does
    } else {
        // What goes so far that it has to be shown passes before the rest.
        mending.mends.push_back(
            {.gaps = {guide.first, guide.last - 1},
             .name = tr("guide").toStdString(),
             .changes = {.method = Method::flow, .inFront = InFront::faster, .guide = guide}});
    }
    editMending(mending, what);
}

void MainWindow::checkGuide(const Guide& guide) {
    if (guide.pairs.size() < 2 || !shown_.footage().frames) return;
    gapTasks_.run([this, guide, frames = shown_.footage().frames](const std::stop_token& stop) {
        try {
            const ImagePtr a = frames->frame(guide.first, stop);
            const ImagePtr b = frames->frame(guide.last, stop);
            const auto leftOut = contradictingPairs(*a, *b, guide.pairs);
            postTo(this, [this, guide, leftOut] {
                GuideSheet* sheet = gapView_->guideSheet();
                if (sheet && sheet->guide() == guide) sheet->setLeftOut(leftOut);
            });
        } catch (const std::exception&) {
            return; // frames that cannot be read are told of where they are shown
        }
    });
}

void MainWindow::editPatch(bool on, bool isNew) {
    if (!on || !document_.current() || !plan()) return gapView_->leavePatch();
    player_.pause();
    compare(false);
    const std::optional<std::size_t> chosen = isNew ? std::nullopt : mend_->gap().selected();
    gapView_->editPatch(isNew); // which leaves the one before
    patch_ = chosen;
    showGapMends();
    showPatchOutline();
}

void MainWindow::takeOutline(const std::vector<PicturePoint>& outline, OutlineOverlay::Change change) {
    const auto gap = gapAtPlayhead();
    const Shot* shot = document_.current();
    if (!gap || !shot || !plan()) return;
    const Rational position = positionOf(plan()->rows[static_cast<std::size_t>(player_.playhead())]);
    if (patch_)
        return changePatch(change == OutlineOverlay::Change::pointMoved ? tr("move point of patch")
                                                                        : tr("move patch"),
                           [&](Patch& patch) { patch = withKey(std::move(patch), position, outline); });
    Mending mending = shot->mending;
    Mend mend{.gaps = gap->gaps, .name = tr("patch").toStdString()};
    mend.patch = Patch{.keys = {{position, outline}}};
    mending.mends.push_back(std::move(mend));
    const std::size_t at = mending.mends.size() - 1;
    patch_ = at; // before the edit shows it
    editMending(mending, tr("patch on gap %1").arg(gap->gaps.first));
    const Shot* now = document_.current();
    if (!now || now->mending.mends.size() <= at) return gapView_->leavePatch(); // refused
    mend_->gap().select(at);
    showPatchOutline();
}

void MainWindow::changePatch(const QString& what, const std::function<void(Patch&)>& change) {
    if (!document_.current() || !patch_) return;
    Mending mending = document_.current()->mending;
    if (*patch_ >= mending.mends.size() || !mending.mends[*patch_].patch) return;
    change(*mending.mends[*patch_].patch);
    editMending(mending, what);
}

void MainWindow::showPatchOutline() {
    const Shot* shot = document_.current();
    if (!gapView_->editsPatch() || !patch_ || !shot || !plan()) return;
    if (*patch_ >= shot->mending.mends.size() || !shot->mending.mends[*patch_].patch)
        return gapView_->leavePatch(); // undone
    const Patch& patch = *shot->mending.mends[*patch_].patch;
    const Rational position = positionOf(plan()->rows[static_cast<std::size_t>(player_.playhead())]);
    const QString place = QLocale().toString(position.toDouble(), 'g', 6);
    const auto key = std::ranges::find(patch.keys, position, &PatchKey::at);
    if (key != patch.keys.end())
        return gapView_->showPatchOutline(key->points, true, tr("Outline as drawn at source %1.").arg(place));
    gapView_->showPatchOutline({}, false, tr("Finding where the outline has gone…"));
    outlining_.request_stop();
    std::stop_source fresh; // named: GCC 12 takes a temporary for one that is not initialised
    outlining_.swap(fresh);
    gapTasks_.run([this, outlines = shown_.outlines(), patch, position, place, at = patch_,
                   stop = outlining_.get_token()](const std::stop_token&) {
        try {
            const auto points = outlines->at(patch, position, stop);
            postTo(this, [this, points, place, at, stop] {
                if (!stop.stop_requested() && patch_ == at)
                    gapView_->showPatchOutline(points, false, tr("Outline carried to source %1.").arg(place));
            });
        } catch (const std::exception& error) {
            postTo(this, [this, stop, text = QString::fromUtf8(error.what())] {
                if (!stop.stop_requested()) gapView_->showPatchOutline({}, false, text);
            });
        }
    });
}

void MainWindow::showWithoutMends(bool on) {
    const Shot* shot = document_.current();
    if (!on || !shot || !plan() || shot->mending.mends.empty()) return gapView_->showInstead(nullptr, {});
    Shot version = *shot;
    version.mending.mends.clear();
    gapView_->showInstead(shown_.ready(version).frames, tr("without mends"));
}

} // namespace yarngap::app
