// What the step Clean asks of the stage, and the source sheet of the document.

#include "app/window/main_window.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

void MainWindow::connectClean() {
    connect(clean_, &CleanStep::sheetAsked, this, &MainWindow::showSourceSheet);
    connect(clean_, &CleanStep::foundChanged, this, [this] {
        gapView_->sourceSheet().setFound(clean_->found(), clean_->certainty());
        showCleanOutcome();
    });
    connect(gapView_, &GapView::sourceSheetShown, clean_, &CleanStep::setSheetShown);
    connect(&gapView_->sourceSheet(), &SourceSheet::decided, this,
            [this](const Cleanup& changed, const QString& what) {
                document_.editCleanup(what, changed, clean_->keepsLength());
            });
    connect(chart_, &ThreadChart::sheetAsked, this, [this](qint64 frame) {
        showSourceSheet(true);
        if (const auto axis = document_.currentAxis(); axis && frame < axis->frames())
            gapView_->sourceSheet().goTo(axis->origin(frame).frame);
    });
    connect(chart_, &ThreadChart::decisionAsked, this, &MainWindow::decideAboutSource);
    // The playhead goes along, so that the picture is there when the sheet is left.
    connect(&gapView_->sourceSheet(), &SourceSheet::moved, this, &MainWindow::goToSourceFrame);
}

void MainWindow::decideAboutSource(qint64 frame, std::optional<CleanupKind> decision) {
    const auto axis = document_.currentAxis();
    if (!axis || frame < 0 || frame >= axis->frames()) return;
    const std::int64_t n = axis->origin(frame).frame;
    if (!decision) {
        document_.editCleanup(tr("decision taken back"), withoutDecisions(axis->cleanup(), n, n),
                              clean_->keepsLength());
        return;
    }
    CleanupDecision made{.frame = n, .kind = *decision};
    const CleanupDecision* there = axis->cleanup().behind(n);
    if (made.kind == CleanupKind::putIn && there)
        made.count = std::min(there->count + 1, CleanupDecision::mostPutIn);
    document_.editCleanup(tr("source frame %1 %2").arg(n).arg(wordFor(*decision)),
                          withDecision(axis->cleanup(), std::move(made)), clean_->keepsLength());
}

void MainWindow::showCleanOutcome() {
    const auto step = std::ranges::find(steps_, clean_, &Step::body);
    if (step != steps_.end() && document_.current()) step->card->setOutcome(clean_->outcome());
}

void MainWindow::showSourceSheet(bool on) {
    if (!plan()) return clean_->setSheetShown(false);
    if (on && !gapView_->showsSourceSheet()) {
        const auto axis = document_.currentAxis();
        const std::int64_t frame = std::min(sourceFrameAtPlayhead(), axis->frames() - 1);
        gapView_->sourceSheet().setFootage(shown_.footage());
        gapView_->sourceSheet().setFound(clean_->found(), clean_->certainty());
        gapView_->sourceSheet().goTo(axis->origin(std::max<std::int64_t>(0, frame)).frame);
    }
    gapView_->showSourceSheet(on);
}

void MainWindow::goToSourceFrame(qint64 interpreted) {
    const auto axis = document_.currentAxis();
    const auto frame = axis && gapView_->showsSourceSheet() ? axis->frameOf(interpreted) : std::nullopt;
    if (!frame || !plan()) return;
    const auto at = document_.currentTiming()->map().outputAt(static_cast<double>(*frame));
    if (at) player_.goTo(std::clamp<qint64>(std::llround(*at), 0, player_.frames() - 1));
}

} // namespace yarngap::app
