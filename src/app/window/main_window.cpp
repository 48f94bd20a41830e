#include "app/window/main_window.h"

#include "app/look/theme.h"
#include "app/steps/footage_step.h"
#include "app/steps/render_step.h"
#include "app/steps/timing_step.h"

#include <QApplication>
#include <QLineEdit>
#include <QShortcut>
#include <QSplitter>
#include <QVBoxLayout>

namespace yarngap::app {

namespace {

QWidget* seam() {
    auto* line = new QWidget;
    line->setFixedHeight(1);
    line->setProperty("role", "seam");
    return line;
}

QSplitter* splitterOf(Qt::Orientation orientation, const char* objectName, QWidget* first, QWidget* second) {
    auto* splitter = new QSplitter(orientation);
    splitter->setObjectName(QLatin1String(objectName));
    splitter->setChildrenCollapsible(false);
    splitter->setHandleWidth(4);
    splitter->addWidget(first);
    splitter->addWidget(second);
    return splitter;
}

constexpr int dragEdits = 1000; // edits of one drag merge into one step of undo

} // namespace

MainWindow::MainWindow(const QString& recoveryFolder, QWidget* parent)
    : QWidget(parent)
    , preferences_(loadPreferences())
    , sound_(player_)
    , shown_(preferences_)
    , playhead_(player_)
    , workspace_(workspace())
    , topBar_(new TopBar(document_, render_))
    , notice_(new NoticeBar)
    , playOn_(new QToolButton)
    , shotList_(new ShotList(document_))
    , trim_(new TrimStep(workspace_))
    , clean_(new CleanStep(workspace_))
    , inBetweens_(new InBetweensStep(workspace_))
    , mend_(new MendStep(workspace_, doubts_))
    , finish_(new FinishStep(workspace_, finishWork_))
    , mendingList_(new MendingList(doubts_))
    , gapView_(new GapView(player_, preview_))
    , start_(new StartPanel(gapView_))
    , chart_(new ThreadChart(player_)) {
    setObjectName(QStringLiteral("mainWindow"));
    setWindowTitle(tr("Yarn Gap"));
    setAcceptDrops(true);
    setAutoFillBackground(true);
    resize(1280, 800);
    setMinimumSize(960, 600);
    layOut();
    connectChart();
    connectDocument();
    connectFiles();
    connectStart();
    connectInBetweens();
    connectClean();
    connectMend();
    connectFinish();
    connectCompare();
    connectSound();
    prepareShortcuts();
    prepareKeys();
    connect(&gapView_->tools(), &StageTools::fullScreenAsked, this, &MainWindow::showFullScreenStage);
    gapView_->loops().setRangeChooser([this] { return loopRange(); });
    qApp->installEventFilter(this);
    setFocusPolicy(Qt::ClickFocus);
    setFocus();
    applyPreferences(preferences_);
    rebuild();
    topBar_->refresh();
    render_.setMeans(
        {.vectors = shown_.vectors(), .finished = shown_.finished(), .known = document_.media().known()});
    if (!recoveryFolder.isEmpty()) keepRecovery(recoveryFolder);
    whileBuilt_.reset();
}

MainWindow::~MainWindow() {
    hide(); // while all that is told of it is still there
    qApp->removeEventFilter(this);
    // The members end one by one; none of them may call back into what has already gone.
    // A field that loses the focus on the way would hand over what is typed in it.
    for (QLineEdit* field : findChildren<QLineEdit*>())
        field->blockSignals(true);
    for (QObject* sender :
         std::initializer_list<QObject*>{&document_, &document_.undoStack(), &player_, &preview_, &sound_,
                                         &render_, &doubts_, &otherDoubts_, &finishWork_})
        sender->disconnect();
}

Workspace MainWindow::workspace() {
    return {document_,
            player_,
            render_,
            [this] { return plan(); },
            [this] { return sourceFrameAtPlayhead(); },
            [this](std::int64_t first, std::int64_t end) {
                const auto& ready = preview_.ready();
                const auto last = std::min(end, static_cast<std::int64_t>(ready.size()));
                std::int64_t count = 0;
                for (std::int64_t n = first; n < last; ++n)
                    count += ready[static_cast<std::size_t>(n)] == Readiness::ready &&
                                     plan()->rows[static_cast<std::size_t>(n)].kind == FrameKind::flow
                                 ? 1
                                 : 0;
                return count;
            },
            [this] { return selectedGaps(); },
            [this] { return chart_->keeping(); }};
}

void MainWindow::layOut() {
    auto* page = new QVBoxLayout(this);
    page->setContentsMargins(0, 0, 0, 0);
    page->setSpacing(0);
    page->addWidget(topBar_);
    page->addWidget(notice_);
    QWidget* line = seam();
    page->addWidget(line);
    column_ = buildColumn();
    aroundStage_ = {topBar_, line, column_, chart_};
    // The seams can be dragged: a wider column shows more of its values, a higher chart more of its lanes.
    QSplitter* halves = splitterOf(Qt::Vertical, "halves", gapView_, chart_);
    halves->setStretchFactor(0, 1);
    halves->setStretchFactor(1, 0);
    QSplitter* sides = splitterOf(Qt::Horizontal, "sides", column_, halves);
    sides->setStretchFactor(0, 0);
    sides->setStretchFactor(1, 1);
    right_ = new QWidget;
    right_->setObjectName(QStringLiteral("rightPane"));
    right_->setMinimumWidth(columnWidth - 24);
    right_->hide();
    sides->addWidget(right_);
    sides->setStretchFactor(2, 0);
    sides->setSizes({columnWidth, 1280 - columnWidth, 0});
    page->addWidget(sides, 1);
    for (QSplitter* seam : {halves, sides})
        layout_.follow(*seam);
    column_->setDragged(layout_.follow(column_->seam()));
    connect(topBar_, &TopBar::columnAsked, column_, &QWidget::setVisible);
    topBar_->showColumn(WindowLayout::wasShown("column", true));
    connect(topBar_, &TopBar::columnAsked, this,
            [](bool shown) { WindowLayout::keepShown("column", shown); });
    layout_.restorePlace();
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
    playOn_->hide(); // until there is a next shot
    auto* column = new LeftColumn(shotList_, playOn_);
    const auto add = [&](const QString& title, const char* name, StepBody* body) {
        steps_.push_back({column->addStep(title, QString::fromLatin1(name), body), body});
        return steps_.back().card;
    };
    auto* footage = new FootageStep(workspace_);
    connect(footage, &FootageStep::findAgainAsked, this, &MainWindow::findAgain);
    add(tr("Footage"), "footageStep", footage);
    add(tr("Trim"), "trimStep", trim_);
    add(tr("Clean"), "cleanStep", clean_);
    add(tr("Timing"), "timingStep", new TimingStep(workspace_))->setOpen(true);
    add(tr("In-betweens"), "inBetweensStep", inBetweens_);
    add(tr("Mend"), "mendStep", mend_);
    add(tr("Finish"), "finishStep", finish_);
    add(tr("Render"), "renderStep", new RenderStep(workspace_));
    return column;
}

void MainWindow::connectChart() {
    chart_->setThumbnails(thumbnails_);
    player_.setIsReady([this](qint64 frame) {
        const auto& ready = preview_.ready();
        return frame < static_cast<qint64>(ready.size()) &&
               ready[static_cast<std::size_t>(frame)] == Readiness::ready;
    });
    chart_->setReady(&preview_.ready());
    const auto drag = [this](const Timing& timing, const QString& what, int number) {
        document_.editTiming(what, timing, dragEdits + number);
    };
    connect(chart_, &ThreadChart::timingDragged, this, drag);
    connect(chart_, &ThreadChart::dragTakenBack, this, drag);
    connect(chart_, &ThreadChart::timingAsked, this,
            [this](const Timing& changed, const QString& what) { document_.editTiming(what, changed); });
    connect(chart_, &ThreadChart::refused, this, &MainWindow::showTrouble);
    connect(&preview_, &Preview::pictureReady, chart_, qOverload<>(&QWidget::update));
    connect(&preview_, &Preview::draftReady, chart_, qOverload<>(&QWidget::update));
    connect(&preview_, &Preview::readyReset, chart_, qOverload<>(&QWidget::update));
    connect(&player_, &Player::loopChanged, chart_, qOverload<>(&QWidget::update));
    connect(&player_, &Player::cameRound, this, &MainWindow::goOnWithNextShot);
}

void MainWindow::connectDocument() {
    connect(&document_, &Document::currentChanged, this, [this] {
        playhead_.forget();
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
        if (shot && plan() && document_.gapFindingsOf(*shot).value_or(GapFindings{}) != shown_.found())
            rebuild();
        showFindings();
        refreshSteps();
    });
    connect(&document_, &Document::shotsChanged, this, [this] {
        topBar_->refresh();
        playOn_->setVisible(document_.project().shots.size() > 1);
    });
    connect(&document_.undoStack(), &QUndoStack::indexChanged, topBar_, &TopBar::refresh);
    connect(&render_, &RenderController::changed, this, [this] {
        topBar_->refresh();
        refreshSteps();
    });
}

void MainWindow::prepareShortcuts() {
    const auto shortcut = [this](const QKeySequence& keys, auto action) {
        connect(new QShortcut(keys, this), &QShortcut::activated, this, action);
    };
    QUndoStack& undo = document_.undoStack();
    shortcut(QKeySequence::New, [this] { startAnew(); });
    shortcut(QKeySequence::Open, [this] { openDialog(); });
    shortcut(QKeySequence::Save, [this] { save(false); });
    shortcut(saveAsKeys(), [this] { save(true); });
    shortcut(QKeySequence::Undo, [&undo] { undo.undo(); });
    shortcut(QKeySequence::Redo, [&undo] { undo.redo(); });
    shortcut(QKeySequence(Qt::Key_F1), [this] { showKeys(); });
    shortcut(QKeySequence(Qt::SHIFT | Qt::Key_F1), [this] { showGuide(); });
    shortcut(QKeySequence(Qt::CTRL | Qt::Key_F1), [this] { showValueHelp(QApplication::focusWidget()); });
    connect(topBar_, &TopBar::helpAsked, this, &MainWindow::showKeys);
}

void MainWindow::showTrouble(const QString& sentence) {
    closing_ = false;
    openNext_.clear();
    notice_->tell(sentence);
}

void MainWindow::showFindings() {
    const Shot* shot = document_.current();
    const auto found = shot && plan() ? document_.gapFindingsOf(*shot) : std::nullopt;
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

} // namespace yarngap::app
