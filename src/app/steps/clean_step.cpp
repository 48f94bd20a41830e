#include "app/steps/clean_step.h"

#include "app/stage/source_sheet.h"
#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"
#include "core/progress.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

namespace {

constexpr int leastPercent = 30; // less certain findings are not kept
constexpr int mostNotes = 3;

} // namespace

CleanStep::CleanStep(Workspace& workspace)
    : StepBody(workspace)
    , state_(faintLabel())
    , lookAt_(new ChoiceBox)
    , certainty_(new QSlider(Qt::Horizontal))
    , certaintyText_(new QLabel)
    , keepLength_(new QCheckBox(tr("Keep the length of the result")))
    , sheet_(new QPushButton(tr("Source sheet")))
    , clear_(new QPushButton(tr("Take all back")))
    , notes_(faintLabel()) {
    buildControls();
    auto* layout = bodyLayout(this);
    layout->addWidget(state_);
    layout->addWidget(captioned(tr("Look for holds of"), lookAt_));
    auto* sure = new QHBoxLayout;
    sure->setSpacing(8);
    sure->addWidget(certainty_, 1);
    sure->addWidget(certaintyText_);
    auto* sureBox = new QWidget;
    sureBox->setLayout(sure);
    sure->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(captioned(tr("How sure it must be"), sureBox));
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(4);
    grid->setVerticalSpacing(4);
    grid->setColumnStretch(0, 1);
    buildRows(*grid);
    layout->addLayout(grid);
    layout->addWidget(keepLength_);
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(8);
    buttons->addWidget(sheet_);
    buttons->addWidget(clear_);
    layout->addLayout(buttons);
    layout->addWidget(notes_);
}

void CleanStep::buildControls() {
    state_->setObjectName(QStringLiteral("cleanState"));
    lookAt_->setObjectName(QStringLiteral("lookAtBox"));
    lookAt_->setAccessibleName(tr("Look for holds of"));
    lookAt_->addItem(tr("the whole picture"), static_cast<int>(LookAt::picture));
    lookAt_->addItem(tr("what moves most"), static_cast<int>(LookAt::figure));
    lookAt_->addItem(tr("the matte's subject alone"), static_cast<int>(LookAt::subject));
    lookAt_->setToolTip(tr("What must stand still for a frame to count as a repeat. “What moves most” leaves "
                           "the camera's own motion out."));
    certainty_->setObjectName(QStringLiteral("certaintySlider"));
    certainty_->setAccessibleName(tr("How sure the search must be, in percent"));
    certainty_->setRange(leastPercent, 100);
    certainty_->setPageStep(5);
    certainty_->setValue(static_cast<int>(std::lround(usualCertainty * 100)));
    certaintyText_->setObjectName(QStringLiteral("certaintyText"));
    certaintyText_->setMinimumWidth(44);
    certaintyText_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    keepLength_->setObjectName(QStringLiteral("keepLengthBox"));
    keepLength_->setToolTip(tr("When frames are taken out or put in, the speed changes so that the result "
                               "runs as long as before"));
    sheet_->setObjectName(QStringLiteral("sourceSheetButton"));
    sheet_->setCheckable(true);
    sheet_->setToolTip(tr("A page of source frames to look through (S)"));
    clear_->setObjectName(QStringLiteral("clearCleanupButton"));
    clear_->setToolTip(tr("Take back every decision about the frames of this shot"));
    notes_->setObjectName(QStringLiteral("cleanNotes"));
    connect(lookAt_, &QComboBox::currentIndexChanged, this, [this] {
        lookedAt_.reset();
        lookAgain();
    });
    connect(certainty_, &QSlider::valueChanged, this, [this] {
        showRows();
        Q_EMIT foundChanged();
    });
    connect(sheet_, &QPushButton::clicked, this, &CleanStep::sheetAsked);
    connect(clear_, &QPushButton::clicked, this,
            [this] { workspace_.document.editCleanup(tr("all decisions taken back"), {}, keepsLength()); });
}

QPushButton* CleanStep::doAllButton(const QString& text, const char* name, CleanupKind finding,
                                    CleanupKind decision) {
    auto* button = new QPushButton(text);
    button->setObjectName(QString::fromLatin1(name));
    button->setStyleSheet(QStringLiteral("padding: 1px 2px; font-size: 12px;"));
    connect(button, &QPushButton::clicked, this, [this, finding, decision] { doAll(finding, decision); });
    return button;
}

void CleanStep::buildRows(QGridLayout& grid) {
    using enum CleanupKind;
    const auto add = [&](CleanupKind finding, const char* name, std::vector<QPushButton*> buttons) {
        auto* count = new QLabel;
        count->setObjectName(QString::fromLatin1(name));
        const int row = grid.rowCount();
        grid.addWidget(count, row, 0);
        for (std::size_t i = 0; i < buttons.size(); ++i)
            grid.addWidget(buttons[i], row, static_cast<int>(i) + 1);
        rows_.push_back({finding, count, std::move(buttons)});
    };
    auto* over = doAllButton(tr("Pass over"), "passOverAllButton", passOver, passOver);
    over->setToolTip(tr("Even out the holds: motion goes on evenly from the kept frame before to the one "
                        "after. The length stays."));
    auto* out = doAllButton(tr("Take out"), "takeOutAllButton", passOver, takeOut);
    out->setToolTip(tr("The frames are removed and later ones close up: for animation that is then slowed."));
    auto* places = doAllButton(tr("Restore"), "restoreAllButton", restore, restore);
    places->setToolTip(tr("Makes only the damaged places again, from both neighbours."));
    auto* whole = doAllButton(tr("Rebuild"), "rebuildAllButton", rebuild, rebuild);
    whole->setToolTip(tr("Makes the frames again from those around them."));
    auto* lost = doAllButton(tr("Put in"), "putInAllButton", putIn, putIn);
    lost->setToolTip(tr("Makes and adds as many frames as were lost."));
    add(passOver, "repeatsCount", {over, out});
    add(restore, "damageCount", {places});
    add(rebuild, "badFramesCount", {whole});
    add(putIn, "lossesCount", {lost});
}

CleanStep::~CleanStep() {
    insideStop_.request_stop();
}

double CleanStep::certainty() const {
    return certainty_->value() / 100.0;
}

void CleanStep::setSheetShown(bool on) {
    sheet_->setChecked(on);
}

void CleanStep::lookAgain() {
    const Shot* shot = workspace_.document.current();
    const auto axis = workspace_.document.interpretedAxis();
    const auto findings = shot ? workspace_.document.media().state(shot->media).findings : nullptr;
    const bool sameFrames = axis && axis_ && axis->interpretation() == axis_->interpretation();
    const bool inside = shot && lookAt() == LookAt::subject;
    if (findings == lookedAt_ && sameFrames && (!inside || insideOf_ == shot->matte)) return;
    lookedAt_ = findings;
    axis_ = axis;
    insideStop_.request_stop();
    isLookingInside_ = false;
    insideTrouble_.clear();
    insideOf_ = inside ? shot->matte : Matte{};
    takeFound({});
    if (inside && findings && axis && !shot->matte.empty()) lookInsideMatte();
}

void CleanStep::takeFound(std::span<const FoundFrame> subject) {
    found_.clear();
    if (lookedAt_ && axis_)
        found_ = foundDecisions(*lookedAt_, axis_->recipes(),
                                {.certainty = 0, .lookAt = lookAt(), .subjectHolds = subject});
    showRows();
    Q_EMIT foundChanged();
}

void CleanStep::lookInsideMatte() {
    std::stop_source fresh; // named: GCC 12 takes a temporary for one that is not initialised
    insideStop_.swap(fresh);
    isLookingInside_ = true;
    showState();
    tasks_.run([this, findings = lookedAt_, axis = workspace_.document.currentAxis(), matte = insideOf_,
                stop = insideStop_.get_token()](const std::stop_token&) {
        std::vector<FoundFrame> holds;
        QString trouble;
        try {
            holds = subjectHolds(*findings, matte, *axis, stop);
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            trouble = QString::fromUtf8(error.what());
        }
        postTo(this, [this, holds = std::move(holds), trouble, stop] {
            if (stop.stop_requested()) return; // something else is looked at by now
            isLookingInside_ = false;
            insideTrouble_ = trouble;
            takeFound(holds);
        });
    });
}

int CleanStep::countOf(CleanupKind finding) const {
    const double least = certainty();
    return static_cast<int>(std::count_if(found_.begin(), found_.end(), [&](const CleanupDecision& d) {
        return d.kind == finding && d.certainty >= least;
    }));
}

void CleanStep::showRows() {
    showState();
    certaintyText_->setText(tr("%1 %").arg(certainty_->value()));
    for (const Row& row : rows_) {
        const int count = countOf(row.finding);
        switch (row.finding) {
        case CleanupKind::passOver:
            row.count->setText(tr("Repeats: %1").arg(count));
            break;
        case CleanupKind::restore:
            row.count->setText(tr("Damage: %1").arg(count));
            break;
        case CleanupKind::rebuild:
            row.count->setText(tr("Bad frames: %1").arg(count));
            break;
        default:
            row.count->setText(tr("Losses: %1").arg(count));
        }
        for (QPushButton* button : row.buttons)
            button->setEnabled(count > 0);
    }
}

void CleanStep::doAll(CleanupKind finding, CleanupKind decision) {
    const auto axis = workspace_.document.currentAxis();
    if (!axis) return;
    std::vector<CleanupDecision> decisions;
    for (const CleanupDecision& found : found_)
        if (found.kind == finding && found.certainty >= certainty()) {
            decisions.push_back(found);
            decisions.back().kind = decision;
            if (decision != CleanupKind::passOver) decisions.back().part = CleanupPart::both;
        }
    const QString words = tr("%1 found, %2").arg(decisions.size()).arg(wordFor(decision));
    workspace_.document.editCleanup(words, withDecisions(axis->cleanup(), std::move(decisions)),
                                    keepsLength());
}

QString CleanStep::foundWords() const {
    const int repeats = countOf(CleanupKind::passOver);
    const int others =
        countOf(CleanupKind::restore) + countOf(CleanupKind::rebuild) + countOf(CleanupKind::putIn);
    QStringList words;
    if (repeats > 0) words << tr("%n repeats", nullptr, repeats);
    if (others > 0) words << tr("%n faults", nullptr, others);
    return words.isEmpty() ? tr("nothing found") : tr("%1 found").arg(words.join(QStringLiteral(", ")));
}

void CleanStep::showNotes() {
    const auto axis = workspace_.document.currentAxis();
    const auto timing = workspace_.document.currentTiming();
    QStringList notes;
    if (axis && timing && axis->isRecounted())
        notes << tr("%1 → %2 source frames; the result has %n frames.", nullptr,
                    static_cast<int>(timing->outputFrames()))
                     .arg(axis->interpretedFrames())
                     .arg(axis->frames());
    if (axis && !axis->cleanup().empty()) {
        const auto cuts =
            lookedAt_ ? axis->interpretedFindings(*lookedAt_).cuts : std::vector<std::int64_t>{};
        const bool hasMatte = !workspace_.document.current()->matte.empty();
        const auto idle = idleDecisions(axis->cleanup(), axis->interpretedFrames(), cuts, hasMatte);
        for (std::size_t i = 0; i < idle.size() && i < mostNotes; ++i)
            notes << QString::fromStdString(idle[i].sentence);
        if (idle.size() > mostNotes) notes << tr("%1 more have no effect.").arg(idle.size() - mostNotes);
    }
    notes_->setText(notes.join(QLatin1Char('\n')));
    notes_->setVisible(!notes.isEmpty());
}

bool CleanStep::hintsAtFigure() const {
    if (!lookedAt_ || lookAt_->currentIndex() != 0 || countOf(CleanupKind::passOver) > 0) return false;
    constexpr int few = 4;
    return std::ranges::count_if(lookedAt_->clean.figureHolds, [this](const FoundFrame& hold) {
               return hold.certainty >= certainty();
           }) >= few;
}

QString CleanStep::outcome() const {
    const auto axis = workspace_.document.currentAxis();
    if (!axis) return {};
    if (!axis->cleanup().empty()) return QString::fromStdString(summary(axis->cleanup()));
    if (!lookedAt_) return tr("searching…");
    return hintsAtFigure() ? tr("holds of the figure found") : foundWords();
}

void CleanStep::showState() {
    QString words;
    const Shot* shot = workspace_.document.current();
    const double share = shot ? workspace_.document.media().state(shot->media).measured : 0;
    if (workspace_.document.currentAxis() && !lookedAt_)
        words =
            tr("The pictures are being searched, %1 %…").arg(static_cast<int>(100 * std::max(0.0, share)));
    else if (isLookingInside_)
        words = tr("The matte's subject is being searched…");
    else if (!insideTrouble_.isEmpty())
        words = insideTrouble_;
    else if (shot && shot->matte.empty() && lookAt() == LookAt::subject)
        words = tr("The shot has no matte. Draw one in In-betweens, under More.");
    else if (hintsAtFigure())
        words = tr("The figure seems to be held while the rest moves. Look for holds of what moves most.");
    state_->setText(words);
    state_->setVisible(!words.isEmpty());
}

QString CleanStep::refresh() {
    const auto axis = workspace_.document.currentAxis();
    setEnabled(axis != nullptr);
    lookAgain();
    clear_->setEnabled(axis && !axis->cleanup().empty());
    showState();
    showNotes();
    return outcome();
}

} // namespace yarngap::app
