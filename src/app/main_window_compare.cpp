// Two versions of the same frames: what the other one is made with, and keeping it.

#include "app/main_window.h"

#include <algorithm>

namespace yarngap::app {

void MainWindow::connectCompare() {
    CompareBar& bar = gapView_->bar();
    connect(&gapView_->tools(), &StageTools::compareAsked, this, &MainWindow::refreshCompare);
    connect(&bar, &CompareBar::otherChanged, this, [this] { refreshCompare(true); });
    connect(&bar, &CompareBar::keepAsked, this, [this] {
        const Take kept = gapView_->bar().other();
        editTakes(tr("settings kept"), [&](Shot& shot) {
            shot.method = kept.method;
            shot.methodStretches.clear(); // what was on screen had none
            shot.inBetweens = kept.inBetweens;
        });
    });
    connect(&bar, &CompareBar::putByAsked, this, [this] {
        editTakes(tr("settings put by"), [](Shot& shot) {
            if (shot.takes.size() >= mostTakes) return;
            int number = 1;
            const auto taken = [&shot](const std::string& wanted) {
                return std::any_of(shot.takes.begin(), shot.takes.end(),
                                   [&](const Take& take) { return take.name == wanted; });
            };
            const auto named = [&number] { return tr("Take %1").arg(number).toStdString(); };
            while (taken(named()))
                ++number;
            shot.takes.push_back({named(), shot.method, shot.inBetweens});
        });
    });
    connect(&bar, &CompareBar::forgetAsked, this, [this](const QString& name) {
        editTakes(tr("settings forgotten"), [&](Shot& shot) {
            std::erase_if(shot.takes, [&](const Take& take) { return take.name == name.toStdString(); });
        });
    });
}

void MainWindow::editTakes(const QString& what, const std::function<void(Shot&)>& edit) {
    if (!document_.current()) return;
    Shot shot = *document_.current();
    edit(shot);
    document_.edit(what, shot);
}

void MainWindow::refreshCompare(bool on) {
    const Shot* shot = document_.current();
    const auto timing = document_.currentTiming();
    if (!on || !shot || !plan_ || !frames_ || !timing) {
        gapView_->compareWith(nullptr, nullptr);
        return;
    }
    gapView_->leaveMatte();
    gapView_->bar().setShot({{}, shot->method, shot->inBetweens}, shot->takes);
    const Take other = gapView_->bar().other();
    Shot version = *shot;
    version.method = other.method;
    version.methodStretches.clear();
    version.inBetweens = other.inBetweens;
    gapView_->compareWith(
        std::make_shared<const FrameMaker>(frames_, vectors_, version.inBetweens, version.matte),
        std::make_shared<const FramePlan>(
            makePlan(*timing, version.methods(shownFindings_), frames_->frames())));
}

} // namespace yarngap::app
