// What the step Mend, the mending list and the lane of doubts ask of each other.

#include "app/window/main_window.h"

#include "core/error.h"
#include "core/mending/timing_mends.h"

#include <QLocale>
#include <QVBoxLayout>

#include <algorithm>
#include <map>
#include <utility>

namespace yarngap::app {

void MainWindow::connectMend() {
    auto* layout = new QVBoxLayout(right_);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(mendingList_);
    connect(&doubts_, &DoubtSearch::changed, this, &MainWindow::showDoubts);
    // Much is told while files are opened and measured; shots with all that lies on them are not copied each
    // time.
    constexpr int lookSoon = 500; // ms
    othersSoon_.setSingleShot(true);
    othersSoon_.setInterval(lookSoon);
    connect(&othersSoon_, &QTimer::timeout, this, &MainWindow::lookAtOtherShots);
    const auto soon = [this] {
        if (doubts_.isSearching()) otherDoubts_.pause();
        if (!othersSoon_.isActive()) othersSoon_.start();
    };
    connect(&doubts_, &DoubtSearch::changed, this, soon);
    connect(&document_, &Document::mediaChanged, this, soon);
    connect(&document_, &Document::shotsChanged, this, soon);
    connect(&otherDoubts_, &OtherDoubts::changed, this, &MainWindow::showDoubts);
    // Whatever looks at gaps works at its leisure; the picture at the playhead may need the very gap that it
    // is at.
    connect(&preview_, &Preview::settledChanged, this, [this, soon](bool isSettled) {
        doubts_.setHeld(!isSettled);
        if (isSettled)
            soon();
        else
            otherDoubts_.pause();
    });
    gapView_->setDoubtWords([this](const PlanRow& row) {
        const auto gap = std::ranges::find_if(
            doubts_.gaps(), [&](const DoubtfulGap& g) { return g.first == row.first && g.last == row.last; });
        if (gap == doubts_.gaps().end()) return QString();
        const QString doubt = tr("doubt %1").arg(QLocale().toString(gap->doubt, 'f', 2));
        const bool isToldWhy = gap->doubt >= mend_->limit() && !gap->why.empty() && !row.mend;
        return isToldWhy ? doubt + QStringLiteral(": ") + wordsFor(*gap, true) : doubt;
    });
    connect(mend_, &MendStep::limitChanged, this, [this](double limit) {
        mendingList_->setLimit(limit);
        showDoubts();
    });
    connect(mend_, &MendStep::listAsked, this, &MainWindow::showMendingList);
    connect(mend_, &MendStep::mendAllAsked, this, [this] {
        if (document_.current()) doubts_.mendAll(mend_->limit(), document_.current()->mending);
    });
    connect(&doubts_, &DoubtSearch::allTried, this, [this](const Mending& mended, int tried, int bettered) {
        if (bettered > 0) editMending(mended, tr("%n gaps mended", nullptr, bettered));
        showTrouble(bettered == 0
                        ? tr("Cures were tried on %n gaps; none is better than the frames as they are.",
                             nullptr, tried)
                        : tr("%1 of %n gaps are mended; nothing tried is better than the others as they are.",
                             nullptr, tried)
                              .arg(bettered));
    });
    connect(mendingList_, &MendingList::gapChosen, this, [this](qint64 output) {
        player_.pause();
        player_.goTo(output);
    });
    connect(mendingList_, &MendingList::mendAsked, this,
            [this](const Mending& changed, const QString& what) { editMending(changed, what); });
    connect(mendingList_, &MendingList::timingMendAsked, this,
            [this](const GapRange& gaps, bool quickly) { mendByTiming(gaps, quickly, false); });
    connect(mendingList_, &MendingList::left, this, qOverload<>(&QWidget::setFocus));
    connectGapMends();
}

void MainWindow::mendByTiming(const GapRange& gaps, bool quickly, bool keepLength) {
    const auto timing = document_.currentTiming();
    if (!timing) return;
    const Keeping keeping = keepLength ? Keeping::length : Keeping::speeds;
    try {
        document_.editTiming(quickly ? tr("gap %1 passed quickly").arg(gaps.first)
                                     : tr("gap %1 run through").arg(gaps.first),
                             quickly ? passQuickly(*timing, gaps, usualQuickStep, usualMendEase, keeping)
                                     : runThrough(*timing, gaps, usualMendEase, keeping));
    } catch (const Error& error) {
        showTrouble(QString::fromStdString(error.what()));
    }
}

void MainWindow::editMending(const Mending& mending, const QString& what, int kind) {
    if (!document_.current()) return;
    try {
        validate(mending); // what no project can hold would be lost with it
    } catch (const Error& error) {
        return showTrouble(QString::fromStdString(error.what()));
    }
    Shot shot = *document_.current();
    shot.mending = mending;
    document_.edit(what, shot, kind);
}

void MainWindow::showMendingList(bool on) {
    right_->setVisible(on);
    mend_->setListShown(on);
    if (on) mendingList_->list().setFocus();
}

void MainWindow::showDoubts() {
    const Shot* shot = document_.current();
    std::vector<ThreadChart::DoubtBar> bars;
    const auto isOpen = [&](const DoubtfulGap& gap) {
        return shot && !shot->mending.at(gap.first) && !shot->mending.isAccepted(gap.first);
    };
    for (const DoubtfulGap& gap : doubts_.gaps())
        bars.push_back({gap.first, gap.last, gap.doubt, isOpen(gap)});
    std::ranges::sort(bars, {}, &ThreadChart::DoubtBar::first);
    chart_->setDoubts(std::move(bars), mend_->limit(), doubts_.isSearching());
    gapView_->tellAgain();
    showGapMends();
    if (!shot) return;
    const MendingList::Counts counts = mendingList_->counts();
    mend_->setCounts({counts.open, counts.mended, counts.accepted});
    std::map<int, int> open = otherDoubts_.open();
    open.erase(document_.currentIndex());
    if (!doubts_.isSearching()) open.emplace(document_.currentIndex(), counts.open);
    shotList_->setDoubtful(open);
    const auto step = std::ranges::find(steps_, mend_, &Step::body);
    if (step != steps_.end()) step->card->setOutcome(mend_->refresh());
}

void MainWindow::lookAtOtherShots() {
    // The shot on screen comes first, and so does all that it needs.
    const Shot* current = document_.current();
    if (!current || !plan() || !preview_.isSettled() || doubts_.isSearching() ||
        !document_.gapFindingsOf(*current))
        return otherDoubts_.pause();
    std::vector<OtherShot> shots;
    const auto& all = document_.project().shots;
    bool measuring = false; // one after the other
    for (std::size_t i = 0; i < all.size(); ++i) {
        const MediaState& media = document_.media().state(all[i].media);
        if (static_cast<int>(i) == document_.currentIndex() || !media.index) continue;
        if (media.findings)
            shots.push_back({static_cast<int>(i), all[i], media.index, media.findings});
        else if (!std::exchange(measuring, true))
            document_.media().measure(all[i].media);
    }
    otherDoubts_.look(shots, mend_->limit());
}

void MainWindow::goToDoubtful(int direction) {
    if (!plan() || plan()->rows.empty()) return;
    const PlanRow& row = plan()->rows[static_cast<std::size_t>(player_.playhead())];
    mendingList_->goToDoubtful(row.position.frame, direction);
}

} // namespace yarngap::app
