#include "app/window/main_window.h"

#include "app/steps/footage_step.h"
#include "app/document/recent_projects.h"
#include "app/look/theme.h"
#include "core/error.h"
#include "core/memory_shares.h"

#include <QApplication>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QShortcut>
#include <QSplitter>
#include <QVBoxLayout>

#include <cmath>
#include <utility>

namespace yarngap::app {

namespace {

QWidget* seam(Qt::Orientation orientation) {
    auto* line = new QWidget;
    if (orientation == Qt::Horizontal)
        line->setFixedHeight(1);
    else
        line->setFixedWidth(1);
    line->setStyleSheet(QStringLiteral("background: #CFCBC2;"));
    return line;
}

constexpr int dragEdits = 1000; // edits of one drag merge into one step of undo

} // namespace

MainWindow::MainWindow(const QString& recoveryFolder, QWidget* parent)
    : QWidget(parent)
    , preferences_(loadPreferences())
    , sound_(player_)
    , vectors_(std::make_shared<VectorStore>(sharesOf(preferences_.memoryBytes).vectors,
                                             vectorFolderOfUser(preferences_.vectorDiskBytes)))
    , finished_(frameFolderOfUser(preferences_.frameDiskBytes))
    , workspace_{document_,
                 player_,
                 render_,
                 [this] { return plan_; },
                 [this] {
                     if (!plan_ || plan_->rows.empty()) return std::int64_t{0};
                     return plan_->rows[static_cast<std::size_t>(player_.playhead())].position.frame;
                 },
                 [this] { return selectedGaps(); },
                 [this] { return chart_->keeping(); }}
    , projectName_(new QLabel)
    , shotName_(new QLabel)
    , renderBar_(new QProgressBar)
    , renderText_(new QLabel)
    , undo_(new QPushButton(tr("Undo")))
    , redo_(new QPushButton(tr("Redo")))
    , fold_(new QToolButton)
    , open_(new QPushButton(tr("Open…")))
    , save_(new QPushButton(tr("Save")))
    , settings_(new QPushButton(tr("Settings")))
    , notice_(new NoticeBar)
    , playOn_(new QToolButton)
    , shotList_(new ShotList(document_))
    , trim_(new TrimStep(workspace_))
    , inBetweens_(new InBetweensStep(workspace_))
    , gapView_(new GapView(player_, preview_))
    , chart_(new ThreadChart(player_)) {
    setObjectName(QStringLiteral("mainWindow"));
    setWindowTitle(tr("Yarn Gap"));
    setAcceptDrops(true);
    setAutoFillBackground(true);
    resize(1280, 800);
    setMinimumSize(960, 600);

    auto* page = new QVBoxLayout(this);
    page->setContentsMargins(0, 0, 0, 0);
    page->setSpacing(0);
    buildTopBar(*page);
    aroundStage_.push_back(seam(Qt::Horizontal));
    page->addWidget(aroundStage_.back());
    column_ = buildColumn();
    aroundStage_.insert(aroundStage_.end(), {column_, chart_});
    // The seams can be dragged: a wider column shows more of its values, a higher chart more of its lanes.
    auto* halves = new QSplitter(Qt::Vertical);
    halves->setObjectName(QStringLiteral("halves"));
    halves->setChildrenCollapsible(false);
    halves->setHandleWidth(4);
    halves->addWidget(gapView_);
    halves->addWidget(chart_);
    halves->setStretchFactor(0, 1);
    halves->setStretchFactor(1, 0);
    auto* sides = new QSplitter(Qt::Horizontal);
    sides->setObjectName(QStringLiteral("sides"));
    sides->setChildrenCollapsible(false);
    sides->setHandleWidth(4);
    sides->addWidget(column_);
    sides->addWidget(halves);
    sides->setStretchFactor(0, 0);
    sides->setStretchFactor(1, 1);
    sides->setSizes({columnWidth, 1280 - columnWidth});
    page->addWidget(sides, 1);
    chart_->setThumbnails(thumbnails_);

    player_.setIsReady([this](qint64 frame) {
        const auto& ready = preview_.ready();
        return frame < static_cast<qint64>(ready.size()) &&
               ready[static_cast<std::size_t>(frame)] == Readiness::ready;
    });
    chart_->setReady(&preview_.ready());
    connect(chart_, &ThreadChart::timingDragged, this,
            [this](const Timing& changed, const QString& what, int drag) {
                document_.editTiming(what, changed, dragEdits + drag);
            });
    connect(chart_, &ThreadChart::dragTakenBack, this,
            [this](const Timing& before, const QString& what, int drag) {
                document_.editTiming(what, before, dragEdits + drag);
            });
    connect(chart_, &ThreadChart::timingAsked, this,
            [this](const Timing& changed, const QString& what) { document_.editTiming(what, changed); });
    connect(chart_, &ThreadChart::refused, this, &MainWindow::showTrouble);
    connect(&preview_, &Preview::pictureReady, chart_, qOverload<>(&QWidget::update));
    connect(&preview_, &Preview::draftReady, chart_, qOverload<>(&QWidget::update));
    connect(&preview_, &Preview::readyReset, chart_, qOverload<>(&QWidget::update));
    connect(&player_, &Player::moved, this, [this] {
        if (!placing_) heldMoment_.reset();
    });
    connect(&player_, &Player::cameRound, this, &MainWindow::goOnWithNextShot);
    connect(&document_, &Document::currentChanged, this, [this] {
        heldMoment_.reset();
        shownTiming_.reset();
        gapView_->loops().leave();
        chart_->letGo();
        rebuild();
    });
    connect(&document_, &Document::shotEdited, this, [this] {
        render_.forgetOutcome();
        rebuild();
    });
    connect(&document_, &Document::mediaChanged, this, [this] {
        const Shot* shot = document_.current();
        // Cuts are found some time after the first plan was made.
        if (shot && plan_ && document_.gapFindingsOf(*shot).value_or(GapFindings{}) != shownFindings_)
            rebuild();
        showFindings();
        refreshSteps();
    });
    connect(&document_, &Document::shotsChanged, this, &MainWindow::refreshTopBar);
    connectFiles();
    connectInBetweens();
    connectCompare();
    connectSound();
    connect(&gapView_->tools(), &StageTools::fullScreenAsked, this, &MainWindow::showFullScreenStage);
    connect(&player_, &Player::loopChanged, chart_, qOverload<>(&QWidget::update));
    gapView_->loops().setRangeChooser([this] { return loopRange(); });
    connect(&document_.undoStack(), &QUndoStack::indexChanged, this, &MainWindow::refreshTopBar);
    connect(&render_, &RenderController::changed, this, [this] {
        refreshTopBar();
        refreshSteps();
    });
    qApp->installEventFilter(this);
    setFocusPolicy(Qt::ClickFocus);
    setFocus();
    applyPreferences(preferences_);
    rebuild();
    refreshTopBar();
    if (!recoveryFolder.isEmpty()) keepRecovery(recoveryFolder);
}

MainWindow::~MainWindow() {
    hide(); // while all that is told of it is still there
    qApp->removeEventFilter(this);
    // The members end one by one; none of them may call back into what has already gone.
    // A field that loses the focus on the way would hand over what is typed in it.
    for (QLineEdit* field : findChildren<QLineEdit*>())
        field->blockSignals(true);
    for (QObject* sender : std::initializer_list<QObject*>{&document_, &document_.undoStack(), &player_,
                                                           &preview_, &sound_, &render_})
        sender->disconnect();
}

void MainWindow::buildTopBar(QVBoxLayout& page) {
    auto* bar = new QWidget;
    bar->setFixedHeight(40);
    aroundStage_.push_back(bar);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(8, 0, 12, 0);
    row->setSpacing(4);
    fold_->setObjectName(QStringLiteral("foldColumnButton"));
    fold_->setCheckable(true);
    fold_->setChecked(true);
    fold_->setIcon(columnIcon());
    fold_->setIconSize({16, 16});
    fold_->setStyleSheet(QStringLiteral("border: none; background: transparent; padding: 0;"));
    fold_->setFixedSize(24, 24);
    fold_->setFocusPolicy(Qt::TabFocus);
    fold_->setAccessibleName(tr("Show shots and steps"));
    fold_->setToolTip(tr("Show or hide shots and steps (Ctrl+L)"));
    fold_->setShortcut(QKeySequence(QStringLiteral("Ctrl+L")));
    connect(fold_, &QToolButton::toggled, this, [this](bool shown) { column_->setVisible(shown); });
    row->addWidget(fold_);
    row->addSpacing(4);
    projectName_->setFont(textFont(14, QFont::DemiBold));
    projectName_->setObjectName(QStringLiteral("projectName"));
    shotName_->setStyleSheet(QStringLiteral("color: #6A6760;"));
    shotName_->setObjectName(QStringLiteral("shotName"));
    renderBar_->setFixedWidth(110);
    renderBar_->setTextVisible(false);
    renderBar_->setAccessibleName(tr("Render progress"));
    renderText_->setStyleSheet(QStringLiteral("color: #6A6760;"));
    renderText_->setObjectName(QStringLiteral("renderText"));
    open_->setObjectName(QStringLiteral("openButton"));
    open_->setToolTip(
        tr("Open video, pictures or a project (Ctrl+O), or one of the last projects; dropping works too"));
    save_->setToolTip(tr("Save the project (Ctrl+S)"));
    save_->setObjectName(QStringLiteral("saveButton"));
    undo_->setObjectName(QStringLiteral("undoButton"));
    redo_->setObjectName(QStringLiteral("redoButton"));
    row->addWidget(projectName_);
    row->addSpacing(24);
    row->addWidget(shotName_);
    row->addStretch();
    row->addWidget(renderBar_);
    row->addSpacing(8);
    row->addWidget(renderText_);
    row->addSpacing(16);
    for (QPushButton* button : {undo_, redo_, open_, save_, settings_}) {
        button->setProperty("role", "flat");
        button->setFocusPolicy(Qt::TabFocus);
        row->addWidget(button);
    }
    page.addWidget(bar);

    page.addWidget(notice_);

    settings_->setObjectName(QStringLiteral("settingsButton"));
    settings_->setToolTip(tr("Memory, disk and sound"));
    connect(settings_, &QPushButton::clicked, this, &MainWindow::showPreferences);
    connect(open_, &QPushButton::clicked, this, &MainWindow::showOpenMenu);
    connect(save_, &QPushButton::clicked, this, [this] { save(false); });
    QUndoStack& undo = document_.undoStack();
    connect(undo_, &QPushButton::clicked, &undo, &QUndoStack::undo);
    connect(redo_, &QPushButton::clicked, &undo, &QUndoStack::redo);
    const auto shortcut = [this](const QKeySequence& keys, auto action) {
        connect(new QShortcut(keys, this), &QShortcut::activated, this, action);
    };
    shortcut(QKeySequence::New, [this] { startAnew(); });
    shortcut(QKeySequence::Open, [this] { openDialog(); });
    shortcut(QKeySequence::Save, [this] { save(false); });
    shortcut(QKeySequence::SaveAs, [this] { save(true); });
    shortcut(QKeySequence::Undo, [&undo] { undo.undo(); });
    shortcut(QKeySequence::Redo, [&undo] { undo.redo(); });
}

LeftColumn* MainWindow::buildColumn() {
    playOn_->setObjectName(QStringLiteral("playOnButton"));
    playOn_->setText(tr("Play on"));
    playOn_->setToolTip(tr("Playing goes on with the next shot, as a reel"));
    playOn_->setCheckable(true);
    playOn_->setProperty("role", "plain");
    playOn_->setStyleSheet(QStringLiteral("font-size: 11px; padding: 0 6px;"));
    playOn_->setFixedHeight(18);
    playOn_->setFocusPolicy(Qt::TabFocus);
    auto* column = new LeftColumn(shotList_, playOn_);
    const auto add = [&](const QString& title, const char* name, StepBody* body) {
        steps_.push_back({column->addStep(title, QString::fromLatin1(name), body), body});
        return steps_.back().card;
    };
    auto* footage = new FootageStep(workspace_);
    connect(footage, &FootageStep::findAgainAsked, this, &MainWindow::findAgain);
    add(tr("Footage"), "footageStep", footage);
    add(tr("Trim"), "trimStep", trim_);
    add(tr("Timing"), "timingStep", new TimingStep(workspace_))->setOpen(true);
    add(tr("In-betweens"), "inBetweensStep", inBetweens_);
    add(tr("Render"), "renderStep", new RenderStep(workspace_, vectors_, finished_));
    return column;
}

void MainWindow::showTrouble(const QString& sentence) {
    closing_ = false;
    openNext_.clear();
    notice_->tell(sentence);
}

void MainWindow::rebuild() {
    const Shot* shot = document_.current();
    const auto index = document_.currentMedia();
    const auto timing = document_.currentTiming();
    const std::size_t sourceBytes = sharesOf(preferences_.memoryBytes).sourceFrames;
    try {
        if (index && timing) {
            document_.media().measure(shot->media);
            const std::pair<int, std::filesystem::path> chosen{document_.currentIndex(), shot->media};
            const bool sameShot = plan_ != nullptr && chosen == shownShot_;
            if (plan_ && !sameShot) {
                playheads_[shownShot_] = player_.playhead();
                heldMoment_.reset();
            }
            shownShot_ = chosen;
            if (index != sourceIndex_) {
                sourceIndex_ = index;
                source_ = std::make_shared<FrameSource>(index, sourceBytes * 2 / 3);
                footage_ = {};
            }
            const Interpretation interpretation = document_.currentInterpretation();
            if (!footage_.frames || interpretation != footage_.axis->interpretation()) {
                footage_ = footageOf(index, document_.currentAxis(), source_, sourceBytes / 3);
                // A reader of their own: what it decodes does not push out what the playhead needs.
                thumbnails_.setShot(footage_.axis->facts(), [index, interpretation] {
                    constexpr std::size_t few = std::size_t{32} << 20;
                    return footageOf(index, interpretation, few).frames;
                });
            }
            if (interpretation != shot->interpretation)
                showTrouble(
                    tr("The interpretation kept for %1 does not suit its file, which may have changed; "
                       "the file is taken as it is.")
                        .arg(QString::fromStdString(shot->name)));
            // The playhead stays on its source moment when the timing changes.
            const double moment =
                heldMoment_ ? *heldMoment_
                : plan_ && !plan_->rows.empty()
                    ? plan_->rows[static_cast<std::size_t>(player_.playhead())].position.toDouble()
                    : static_cast<double>(timing->from);
            shownFindings_ = document_.gapFindingsOf(*shot).value_or(GapFindings{});
            const ReadyShot made = ready(*shot);
            plan_ = made.plan;
            preview_.setShot(made.frames);
            player_.setRange(static_cast<qint64>(plan_->rows.size()), timing->outputRate.toDouble());
            if (!sameShot) {
                // Each shot is found as it was left.
                const auto left = playheads_.find(chosen);
                placing_ = true;
                player_.goTo(left != playheads_.end() ? left->second : 0);
                placing_ = false;
            }
            if (sameShot && shownTiming_ && *shownTiming_ != *timing) {
                placing_ = true;
                const auto output = timing->map().outputAt(moment);
                if (output && std::llround(*output) != player_.playhead())
                    player_.goTo(std::llround(*output));
                placing_ = false;
                heldMoment_ = moment;
            }
            shownTiming_ = timing;
            sound_.setShot(index, footage_.axis->frames(), plan_, timing->outputRate);
            chart_->setPlan(plan_, *timing);
            showFindings();
            gapView_->setShot(plan_, *timing, footage_.axis->facts());
            gapView_->refreshMatte(shot->matte);
            refreshCompare(gapView_->isComparing());
        } else {
            if (plan_) playheads_[shownShot_] = player_.playhead();
            plan_.reset();
            preview_.setShot(nullptr);
            player_.setRange(0, 24);
            sound_.setShot(nullptr, 0, nullptr, Rate());
            chart_->setPlan(nullptr, {});
            QString words = tr("Drop a video file here, or press Ctrl+O to open one.");
            QImage standIn;
            if (shot) {
                const MediaState& state = document_.media().state(shot->media);
                standIn = state.firstPicture;
                words = state.stage == MediaState::Stage::failed ? state.trouble
                        : state.stage == MediaState::Stage::opening
                            ? tr("Opening %1…").arg(QString::fromStdString(shot->name))
                            : tr("First frame. Counting frames, %1 %…")
                                  .arg(static_cast<int>(state.progress * 100));
            }
            gapView_->setStandIn(standIn, words);
        }
    } catch (const Error& error) {
        showTrouble(QString::fromStdString(error.what()));
    }
    refreshSteps();
    refreshTopBar();
}

void MainWindow::showFindings() {
    const Shot* shot = document_.current();
    const auto found = shot && plan_ ? document_.gapFindingsOf(*shot) : std::nullopt;
    if (!found) {
        chart_->setFindings({}, {});
        return;
    }
    std::vector<std::int64_t> firstFrames = found->cuts;
    for (std::int64_t& frame : firstFrames)
        ++frame; // behind the gap
    chart_->setFindings(found->repeats, std::move(firstFrames));
}

void MainWindow::refreshSteps() {
    for (const Step& step : steps_) {
        step.card->setVisible(document_.current() != nullptr);
        if (document_.current()) step.card->setOutcome(step.body->refresh());
    }
}

void MainWindow::refreshTopBar() {
    const Shot* shot = document_.current();
    const QString file = document_.file();
    projectName_->setText(file.isEmpty() ? (shot ? tr("New project") : tr("Yarn Gap"))
                                         : QString::fromStdString(document_.project().name));
    const QString state = !shot                           ? QString()
                          : file.isEmpty()                ? tr("not saved yet")
                          : document_.hasUnsavedChanges() ? tr("unsaved changes")
                                                          : tr("saved");
    shotName_->setText(shot ? QString::fromStdString(shot->name) + QStringLiteral(" · ") + state : QString());
    save_->setEnabled(shot != nullptr);
    playOn_->setVisible(document_.project().shots.size() > 1);
    QUndoStack& undo = document_.undoStack();
    undo_->setEnabled(undo.canUndo());
    redo_->setEnabled(undo.canRedo());
    undo_->setToolTip(undo.canUndo() ? tr("Undo %1 (Ctrl+Z)").arg(undo.undoText()) : tr("Nothing to undo"));
    redo_->setToolTip(undo.canRedo() ? tr("Redo %1 (Ctrl+Shift+Z)").arg(undo.redoText())
                                     : tr("Nothing to redo"));
    renderBar_->setVisible(render_.running());
    const RenderProgress& p = render_.progress();
    QString text;
    if (render_.running()) {
        const auto percent = p.total > 0 ? p.done * 100 / p.total : 0;
        renderBar_->setValue(static_cast<int>(percent));
        text = tr("Rendering %1 %2 %").arg(render_.shotName()).arg(percent);
        if (p.secondsLeft >= 90)
            text += tr(" · %1 min left").arg(std::lround(p.secondsLeft / 60));
        else if (p.secondsLeft >= 0)
            text += tr(" · %1 s left").arg(std::lround(p.secondsLeft));
    } else if (render_.failed()) {
        text = tr("Render failed; see Render");
    } else if (render_.report()) {
        text = tr("%1 rendered").arg(render_.shotName());
    }
    renderText_->setText(text);
    if (document_.hasUnsavedChanges()) return;
    if (closing_) close();
    if (!openNext_.isEmpty()) document_.openFiles({std::exchange(openNext_, {})});
}

} // namespace yarngap::app
