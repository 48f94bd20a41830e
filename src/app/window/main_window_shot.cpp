// How the window comes to show the current shot.

#include "app/window/main_window.h"

#include "core/error.h"

namespace yarngap::app {

void MainWindow::rebuild() {
    const Shot* shot = document_.current();
    const auto index = document_.currentMedia();
    const auto timing = document_.currentTiming();
    try {
        if (index && timing)
            showShot(*shot, index, *timing);
        else
            showNoShot(shot);
    } catch (const Error& error) {
        showTrouble(QString::fromStdString(error.what()));
    }
    refreshSteps();
    topBar_->refresh();
}

void MainWindow::showShot(const Shot& shot, const std::shared_ptr<const MediaIndex>& index,
                          const Timing& timing) {
    start_->hide();
    document_.media().measure(shot.media);
    playhead_.comeTo({document_.currentIndex(), shot.media}, plan().get(), timing);
    openFootage(shot, index);
    shown_.make(shot, document_.gapFindingsOf(shot).value_or(GapFindings{}));
    preview_.setShot(stageFrames());
    player_.setRange(static_cast<qint64>(plan()->rows.size()), timing.outputRate.toDouble());
    playhead_.put(timing);
    sound_.setShot(index, shown_.footage().axis, plan(), timing.outputRate);
    const SourceTimecode timecode = sourceTimecodeOf(index, shown_.footage().axis);
    chart_->setSourceTimecode(timecode);
    chart_->setPlan(plan(), timing);
    showFindings();
    gapView_->setShot(plan(), timing, stageFrames()->facts(), shown_.footage().axis->facts(), timecode);
    gapView_->setMatte(shot.matte);
    if (GuideSheet* sheet = gapView_->guideSheet()) {
        Guide guide{sheet->guide().first, sheet->guide().last, {}};
        for (const Mend& mend : shot.mending.mends)
            if (mend.changes.guide && mend.changes.guide->first == guide.first &&
                mend.changes.guide->last == guide.last)
                guide = *mend.changes.guide;
        gapView_->setGuide(guide);
        checkGuide(guide);
    }
    gapView_->sourceSheet().setFootage(shown_.footage());
    gapView_->sourceSheet().setFound(clean_->found(), clean_->certainty());
    compare(gapView_->isComparing());
    mendingList_->setShot(plan(), shot.mending, timing.outputRate);
    doubts_.setShot(shown_.planned(), shown_.unfinished(), shown_.found(), shot.matte);
    finishWork_.setSubject({shown_.footage().frames, shown_.vectors(), shown_.found().cuts,
                            shown_.unfinished(), timing.from, timing.to});
    showGapMends();
    showPatchOutline();
    showPlace();
    showHold();
}

void MainWindow::openFootage(const Shot& shot, const std::shared_ptr<const MediaIndex>& index) {
    const Interpretation interpretation = document_.currentInterpretation();
    const auto axis = document_.currentAxis();
    const auto& findings = document_.media().state(shot.media).findings;
    std::vector<std::int64_t> cuts;
    if (findings && !axis->cleanup().empty()) cuts = axis->interpretedFindings(*findings).cuts;
    if (shown_.open(index, axis, cuts)) {
        toldLost_.clear();
        // A reader of their own: what it decodes does not push out what the playhead needs.
        thumbnails_.setShot(axis->facts(),
                            [index, axis, cuts, vectors = shown_.vectors(), finished = shown_.finished()] {
                                constexpr std::size_t few = std::size_t{32} << 20;
                                return footageOf(index, axis, std::make_shared<FrameSource>(index, few), few,
                                                 {.vectors = vectors, .finished = finished, .cuts = cuts})
                                    .frames;
                            });
    }
    if (interpretation != shot.interpretation)
        showTrouble(tr("The interpretation kept for %1 does not suit its file, which may have changed; "
                       "the file is taken as it is.")
                        .arg(QString::fromStdString(shot.name)));
    else if (axis->cleanup() != shot.cleanup)
        showTrouble(tr("The cleanup of %1 takes out every frame of its file, which may have changed; no "
                       "frame is taken out.")
                        .arg(QString::fromStdString(shot.name)));
}

void MainWindow::showNoShot(const Shot* shot) {
    playhead_.leave(plan().get());
    shown_.clear();
    preview_.setShot(nullptr);
    player_.setRange(0, 24);
    sound_.setShot(nullptr, nullptr, nullptr, Rate());
    chart_->setPlan(nullptr, {});
    mendingList_->setShot(nullptr, {}, Rate());
    doubts_.setShot(nullptr, nullptr, {}, {});
    finishWork_.setSubject({});
    QString words; // the start panel has its own
    QImage standIn;
    if (shot) {
        const MediaState& state = document_.media().state(shot->media);
        standIn = state.firstPicture;
        words = state.stage == MediaState::Stage::failed ? state.trouble
                : state.stage == MediaState::Stage::opening
                    ? tr("Opening %1…").arg(QString::fromStdString(shot->name))
                    : tr("First frame. Counting frames, %1 %…").arg(static_cast<int>(state.progress * 100));
    }
    gapView_->setStandIn(standIn, words);
    start_->setVisible(!shot);
    if (!shot) start_->raise();
}

} // namespace yarngap::app
