// Two versions of the same frames: what the other one is made with, and keeping it.

#include "app/window/main_window.h"

#include <QFileDialog>
#include <QFileInfo>

#include <algorithm>

namespace yarngap::app {

void MainWindow::connectCompare() {
    CompareBar& bar = gapView_->bar();
    connect(&gapView_->tools(), &StageTools::compareAsked, this, &MainWindow::compare);
    connect(&bar, &CompareBar::otherChanged, this, [this] { compare(true); });
    connect(&bar, &CompareBar::fileAsked, this, [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Frames to compare with"), {},
                                                          tr("Video and pictures (*)"));
        if (!file.isEmpty()) gapView_->bar().setFile(QFileInfo(file).absoluteFilePath());
    });
    connect(&document_.media(), &MediaLibrary::changed, this, [this](const QString& path) {
        if (!gapView_->isComparing() || path != gapView_->bar().file()) return;
        const MediaState& state = document_.media().state(path.toStdString());
        if (state.stage == MediaState::Stage::failed) showTrouble(state.trouble);
        if (state.index) compare(true);
    });
    connect(&bar, &CompareBar::keepAsked, this, [this] {
        const Take kept = gapView_->bar().other();
        const bool before = gapView_->bar().isBeforeMends(kept);
        editTakes(before ? tr("mends taken away") : tr("settings kept"), [&](Shot& shot) {
            if (before) {
                shot = shot.beforeMends();
                return;
            }
            shot.method = kept.method;
            shot.methodStretches.clear(); // what was on screen had none
            shot.inBetweens = kept.inBetweens;
        });
    });
    connect(&bar, &CompareBar::saveAsked, this, [this] {
        editTakes(tr("settings saved"), [](Shot& shot) {
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
    connect(&bar, &CompareBar::deleteAsked, this, [this](const QString& name) {
        editTakes(tr("saved settings deleted"), [&](Shot& shot) {
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

OtherVersion MainWindow::versionOfFile(const Timing& timing) {
    const QString file = gapView_->bar().file();
    OtherVersion version{nullptr, QString::fromStdString(gapView_->bar().other().name)};
    if (file != comparedFile_) { // asked for again, a file that cannot be read would be tried for ever
        comparedFile_ = file;
        document_.media().open(file.toStdString());
    }
    const MediaState& state = document_.media().state(file.toStdString());
    if (!state.index) return version; // its state will change
    version.frames = shown_.trueFrames(state.index, timing.sourceRate);
    return version;
}

void MainWindow::compare(bool on) {
    const Shot* shot = document_.current();
    const auto timing = document_.currentTiming();
    if (!on || !shot || !plan() || !shown_.footage().frames || !timing) {
        gapView_->compareWith({});
        return;
    }
    gapView_->leaveMatte();
    gapView_->leavePatch();
    CompareBar& bar = gapView_->bar();
    bar.setShot({{}, shot->method, shot->inBetweens}, shot->takes, shot->isMended());
    std::vector<OtherVersion> versions;
    for (const Take& other : bar.others()) {
        if (bar.isFile(other)) {
            versions.push_back(versionOfFile(*timing));
            continue;
        }
        Shot version = *shot;
        version.method = other.method;
        version.methodStretches.clear();
        version.inBetweens = other.inBetweens;
        if (bar.isBeforeMends(other)) version = shot->beforeMends();
        versions.push_back({shown_.ready(version).frames, QString::fromStdString(other.name)});
    }
    gapView_->compareWith(versions);
}

} // namespace yarngap::app
