// What the window does with files: opening, saving, dropping, recovery, and asking before work is lost.

#include "app/document/recent_projects.h"
#include "app/window/main_window.h"

#include "app/look/numbers.h"

#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QMimeData>

#include <utility>

namespace yarngap::app {

namespace {

QStringList localFiles(const QMimeData& data) {
    QStringList files;
    for (const QUrl& url : data.urls())
        if (url.isLocalFile()) files.append(url.toLocalFile());
    return files;
}

} // namespace

void MainWindow::openDialog() {
    const QStringList files = QFileDialog::getOpenFileNames(this, tr("Open shots, a project or an edit"), {},
                                                            tr("Video, projects and edits (*)"));
    if (!files.isEmpty()) document_.openFiles(files);
}

void MainWindow::showOpenMenu() {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("openMenu"));
    connect(menu->addAction(tr("Shots, a project or an edit…")), &QAction::triggered, this,
            &MainWindow::openDialog);
    connect(menu->addAction(tr("New project")), &QAction::triggered, this, &MainWindow::startAnew);
    const QStringList recent = recentProjects();
    if (!recent.isEmpty()) menu->addSeparator();
    for (const QString& file : recent)
        connect(menu->addAction(QFileInfo(file).completeBaseName() + QStringLiteral(" — ") +
                                QFileInfo(file).path()),
                &QAction::triggered, this, [this, file] { document_.openFiles({file}); });
    const QPushButton& button = topBar_->openButton();
    menu->popup(button.mapToGlobal(QPoint(0, button.height())));
}

void MainWindow::askEditRate(const QString& list) {
    std::vector<NoticeBar::Answer> answers;
    for (const char* rate : {"23.976", "24", "25", "29.97", "30"})
        answers.push_back({shownDecimal(rate), [this, list, rate] {
                               editRate_ = Rate::parse(rate);
                               document_.openEditList(list, QFileInfo(list).absolutePath(), editRate_);
                           }});
    notice_->tell(tr("%1 does not say its frame rate. Which is it?").arg(QFileInfo(list).fileName()),
                  answers);
}

void MainWindow::startAnew() {
    if (!document_.hasUnsavedChanges()) {
        document_.startAnew();
        return;
    }
    notice_->tell(
        tr("%1 has changes that are not saved. A new project would lose them.").arg(topBar_->projectName()),
        {{tr("Save"), [this] { save(false); }},
         {tr("Begin without saving"), [this] { document_.startAnew(); }}});
}

void MainWindow::save(bool chooseName) {
    QString file = document_.file();
    if (file.isEmpty() || chooseName)
        file = QFileDialog::getSaveFileName(this, tr("Save project"),
                                            file.isEmpty() ? tr("untitled.yarngap") : file,
                                            tr("Yarn Gap project (*.yarngap)"));
    if (file.isEmpty()) {
        closing_ = false;
        openNext_.clear();
        return;
    }
    if (!file.endsWith(QLatin1String(".yarngap"))) file += QStringLiteral(".yarngap");
    document_.save(file);
}

void MainWindow::askBeforeReplacing(const QString& file) {
    notice_->tell(tr("%1 has changes that are not saved. Opening %2 would lose them.")
                      .arg(topBar_->projectName(), QFileInfo(file).fileName()),
                  {{tr("Save, then open"),
                    [this, file] {
                        openNext_ = file;
                        save(false);
                    }},
                   {tr("Open without saving"), [this, file] { document_.openProject(file, true); }}});
}

void MainWindow::goOnAfterSaving() {
    if (document_.hasUnsavedChanges()) return;
    if (std::exchange(closing_, false)) close();
    if (!openNext_.isEmpty()) document_.openFiles({std::exchange(openNext_, {})});
}

void MainWindow::keepRecovery(const QString& folder) {
    recovery_ = std::make_unique<RecoveryKeeper>(document_, folder);
    connect(recovery_.get(), &RecoveryKeeper::failed, this,
            [this](const QString& sentence) { notice_->tell(sentence); });
    render_.keepIn(QFileInfo(folder).path() + QStringLiteral("/queue.json"));
    offerRecovery();
}

void MainWindow::offerRecovery() {
    const auto left = recovery_->leftBehind();
    if (left.empty()) return;
    const LeftBehind& copy = left.front();
    const QString name =
        copy.origin.isEmpty() ? tr("a project without a name") : QFileInfo(copy.origin).fileName();
    notice_->tell(tr("Yarn Gap ended unexpectedly. Unsaved work on %1 from %2 was kept.")
                      .arg(name, copy.changed.toString(QStringLiteral("d MMM, HH:mm:ss"))),
                  {{tr("Recover"), [this, copy] { recovery_->recover(copy); }}, {tr("Discard"), [this, copy] {
                                                                                     recovery_->discard(copy);
                                                                                     offerRecovery();
                                                                                 }}});
}

void MainWindow::connectFiles() {
    connect(topBar_, &TopBar::openAsked, this, &MainWindow::showOpenMenu);
    connect(topBar_, &TopBar::saveAsked, this, [this] { save(false); });
    connect(topBar_, &TopBar::settingsAsked, this, &MainWindow::showPreferences);
    connect(&document_, &Document::fileChanged, topBar_, &TopBar::refresh);
    connect(&document_, &Document::fileChanged, this, [this] { noteRecentProject(document_.file()); });
    connect(&document_, &Document::fileChanged, this, &MainWindow::goOnAfterSaving);
    connect(&document_, &Document::trouble, this, &MainWindow::showTrouble);
    connect(&document_, &Document::changedMeanwhile, this,
            [this](const QString& file, const QString& sentence) {
                showTrouble(sentence);
                notice_->tell(sentence, {{tr("Save over it"), [this, file] { document_.save(file, true); }},
                                         {tr("Save under another name…"), [this] { save(true); }}});
            });
    connect(&document_, &Document::edlNeedsRate, this, &MainWindow::askEditRate);
    connect(&document_, &Document::editOpened, this,
            [this](const QString& list, const QString& sentence, bool isMissing) {
                std::vector<NoticeBar::Answer> answers;
                if (isMissing)
                    answers.push_back({tr("Look in another folder…"), [this, list] {
                                           const QString folder = QFileDialog::getExistingDirectory(
                                               this, tr("Folder with the media of the edit"),
                                               QFileInfo(list).absolutePath());
                                           if (!folder.isEmpty())
                                               document_.openEditList(list, folder, editRate_);
                                       }});
                notice_->tell(sentence, answers);
            });
    connect(&document_, &Document::unclearNumber, this,
            [this](const QStringList& choices, const QString& sentence) {
                if (!notice_->isVisible()) unclear_.clear(); // those before were not answered
                unclear_.push_back({choices, sentence});
                if (unclear_.size() == 1) askWhichNumber();
            });
    connect(&preview_, &Preview::sourceLost, this, [this](const QString& sentence) {
        if (std::exchange(toldLost_, sentence) == sentence) return; // each frame would tell it
        notice_->tell(sentence, {{tr("Read the file again"), [this] { readAgain(); }}});
    });
    connect(&document_, &Document::otherContent, this, [this](const QString& file, const QString& sentence) {
        notice_->tell(sentence,
                      {{tr("Use it anyway"), [this, file] { document_.relinkCurrent(file, true); }}});
    });
    connect(shotList_, &ShotList::findAgainAsked, this, &MainWindow::findAgain);
    connect(&document_, &Document::wouldLoseChanges, this, &MainWindow::askBeforeReplacing);
}

void MainWindow::readAgain() {
    // Until it has been read, frames of the file as it was are still asked for; what they tell is known.
    if (!document_.current()) return;
    preview_.forgetAll();
    document_.media().openAgain(document_.current()->media);
}

void MainWindow::askWhichNumber() {
    if (unclear_.empty()) return;
    const auto& [patterns, sentence] = unclear_.front();
    std::vector<NoticeBar::Answer> answers;
    for (const QString& pattern : patterns)
        answers.push_back({QFileInfo(pattern).fileName(), [this, pattern] {
                               document_.addShots({pattern});
                               unclear_.erase(unclear_.begin());
                               askWhichNumber();
                           }});
    notice_->tell(sentence, std::move(answers));
}

void MainWindow::findAgain() {
    const Shot* shot = document_.current();
    if (!shot) return;
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Find %1 again").arg(QString::fromStdString(shot->media.filename().string())));
    if (!file.isEmpty()) document_.relinkCurrent(file);
}

void MainWindow::connectStart() {
    connect(start_, &StartPanel::openAsked, this, &MainWindow::openDialog);
    connect(start_, &StartPanel::demoAsked, this, [this] {
        start_->setWaiting(
            tr("The first shot is being drawn. It opens when it is ready; the others follow."));
        demo_.draw();
    });
    connect(&demo_, &DemoShots::ready, this, [this](const QString& project) {
        start_->setWaiting({});
        if (!document_.current()) document_.openFiles({project});
    });
    connect(&demo_, &DemoShots::failed, this, [this](const QString& sentence) {
        start_->setWaiting({});
        showTrouble(sentence);
    });
}

void MainWindow::dragEnterEvent(QDragEnterEvent* drag) {
    if (!localFiles(*drag->mimeData()).isEmpty()) drag->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* drop) {
    document_.openFiles(localFiles(*drop->mimeData()));
    drop->acceptProposedAction();
}

void MainWindow::closeEvent(QCloseEvent* close) {
    if (render_.running()) {
        showTrouble(tr("A render is running. Cancel it, or wait for it to finish, before closing."));
        close->ignore();
        return;
    }
    if (document_.hasUnsavedChanges() && !discard_) {
        notice_->tell(tr("%1 has changes that are not saved.").arg(topBar_->projectName()),
                      {{tr("Save and close"),
                        [this] {
                            closing_ = true;
                            save(false);
                        }},
                       {tr("Close without saving"), [this] {
                            discard_ = true;
                            this->close();
                        }}});
        close->ignore();
        return;
    }
    if (!fullScreenStage_) layout_.keepPlace();
    if (recovery_) recovery_->finish();
    close->accept();
}

} // namespace yarngap::app
