#include "app/steps/footage_step.h"

#include "app/look/core_names.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "app/steps/step_layout.h"
#include "core/error.h"
#include "core/image/screen_colour.h"

#include <QGridLayout>
#include <QVBoxLayout>

#include <utility>

namespace yarngap::app {

namespace {

/// H.273 code points that footage comes in.
constexpr std::initializer_list<std::pair<int, const char*>> matrices{
    {1, "BT.709"}, {6, "BT.601"}, {9, "BT.2020"}};

ChoiceBox* choice(const QString& name, const char* objectName,
                  std::initializer_list<std::pair<QString, int>> items) {
    auto* box = new ChoiceBox;
    box->setAccessibleName(name);
    box->setObjectName(QString::fromLatin1(objectName));
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(6);
    for (const auto& [label, value] : items)
        box->addItem(label, value);
    return box;
}

} // namespace

FootageStep::FootageStep(Workspace& workspace)
    : StepBody(workspace)
    , facts_(new QLabel)
    , remark_(problemLabel())
    , findAgain_(new QPushButton(tr("Find the file again…")))
    , progress_(new QProgressBar)
    , suitability_(new QLabel)
    , proposals_(new QWidget)
    , controls_(new QWidget)
    , rate_(new ValueField(tr("Frame rate the file is taken at")))
    , aspect_(new ValueField(tr("Pixel aspect")))
    , fields_(choice(tr("Fields"), "fieldsBox",
                     {{tr("as coded"), static_cast<int>(FieldUse::asCoded)},
                      {tr("to frames"), static_cast<int>(FieldUse::toFrames)},
                      {tr("to twice the rate"), static_cast<int>(FieldUse::toFields)}}))
    , order_(choice(tr("Field order"), "orderBox",
                    {{tr("as the file"), -1}, {tr("top first"), 1}, {tr("bottom first"), 0}}))
    , turn_(choice(tr("Turn"), "turnBox",
                   {{tr("0°"), 0}, {tr("90° right"), 90}, {tr("180°"), 180}, {tr("90° left"), 270}}))
    , range_(choice(tr("Range"), "rangeBox", {{tr("as the file"), -1}, {tr("limited"), 0}, {tr("full"), 1}}))
    , matrix_(choice(tr("Matrix"), "matrixBox", {{tr("as the file"), -1}}))
    , asFile_(new QPushButton(tr("Take as the file says"))) {
    auto* layout = bodyLayout(this);
    facts_->setTextFormat(Qt::RichText);
    facts_->setWordWrap(true);
    facts_->setObjectName(QStringLiteral("footageFacts"));
    progress_->setTextVisible(false);
    progress_->setAccessibleName(tr("Indexing"));
    proposals_->setObjectName(QStringLiteral("proposals"));
    // What asks for a decision comes before the facts that it rests on.
    layout->addWidget(progress_);
    layout->addWidget(remark_);
    layout->addWidget(findAgain_);
    layout->addWidget(proposals_);
    layout->addWidget(facts_);
    layout->addWidget(suitability_);
    suitability_->setObjectName(QStringLiteral("suitabilityLabel"));
    suitability_->setWordWrap(true);
    suitability_->setTextFormat(Qt::RichText);
    suitability_->setProperty("role", "box");
    findAgain_->setObjectName(QStringLiteral("findAgainButton"));
    findAgain_->setFocusPolicy(Qt::TabFocus);
    connect(findAgain_, &QPushButton::clicked, this, &FootageStep::findAgainAsked);
    auto* rows = new QVBoxLayout(proposals_);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(4);
    buildControls(*layout);
}

void FootageStep::buildControls(QVBoxLayout& layout) {
    for (const auto& [point, label] : matrices)
        matrix_->addItem(QString::fromLatin1(label), point);
    rate_->setObjectName(QStringLiteral("footageRateField"));
    aspect_->setObjectName(QStringLiteral("aspectField"));
    asFile_->setObjectName(QStringLiteral("asFileButton"));
    asFile_->setFocusPolicy(Qt::TabFocus);
    auto* grid = new QGridLayout(controls_);
    grid->setContentsMargins(0, 4, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(4);
    const std::initializer_list<std::pair<QString, QWidget*>> fields{
        {tr("Taken at, fps"), rate_}, {tr("Fields"), fields_}, {tr("Field order"), order_},
        {tr("Turned by"), turn_},     {tr("Range"), range_},   {tr("Matrix"), matrix_},
        {tr("Pixel aspect"), aspect_}};
    int i = 0;
    for (const auto& [caption, field] : fields) {
        grid->addWidget(captioned(caption, field), i / 2, i % 2);
        ++i;
    }
    grid->setColumnStretch(0, 1);
    grid->setColumnStretch(1, 1);
    layout.addWidget(controls_);
    layout.addWidget(asFile_);

    const auto chosen = [this](ChoiceBox* box, const QString& what, auto apply) {
        connect(box, &QComboBox::activated, this, [this, box, what, apply](int row) {
            const int value = box->itemData(row).toInt();
            change(what, [&](Interpretation& in) { apply(in, value); });
        });
    };
    chosen(fields_, tr("fields"), [](Interpretation& in, int v) {
        in.fields = static_cast<FieldUse>(v);
        if (in.fields != FieldUse::removePulldown) in.pulldown.clear();
    });
    chosen(order_, tr("field order"),
           [](Interpretation& in, int v) { in.topFirst = v < 0 ? std::nullopt : std::optional(v == 1); });
    chosen(turn_, tr("turn"), [](Interpretation& in, int v) { in.rotation = v; });
    chosen(range_, tr("range"),
           [](Interpretation& in, int v) { in.fullRange = v < 0 ? std::nullopt : std::optional(v == 1); });
    chosen(matrix_, tr("matrix"),
           [](Interpretation& in, int v) { in.matrix = v < 0 ? std::nullopt : std::optional(v); });
    const auto typed = [this](ValueField* field, const QString& what, auto apply) {
        connect(field, &ValueField::typed, this, [this, field, what, apply](const QString& entered) {
            try {
                change(what, [&](Interpretation& in) { apply(in, entered); });
                refresh();
            } catch (const Error& error) {
                field->refuse(QString::fromStdString(error.what()));
            }
        });
        connect(field, &ValueField::refused, this, [this](const QString& s) {
            const Shot* shot = workspace_.document.current();
            showProblem(remark_, !s.isEmpty() || !shot
                                     ? s
                                     : text(workspace_.document.media().state(shot->media).facts.remark));
        });
    };
    typed(rate_, tr("source rate"),
          [](Interpretation& in, const QString& entered) { in.rate = Rate::parse(bare(entered, {"fps"})); });
    typed(aspect_, tr("pixel aspect"), [](Interpretation& in, const QString& entered) {
        const Rational aspect = Rational::parse(bare(entered, {}));
        if (aspect < Rational(1, 10) || aspect > Rational(10))
            throw Error("A pixel aspect lies between 0.1 and 10.");
        in.pixelAspect = aspect;
    });
    connect(asFile_, &QPushButton::clicked, this,
            [this] { change(tr("take as the file says"), [](Interpretation& in) { in = {}; }); });
}

void FootageStep::change(const QString& what, const std::function<void(Interpretation&)>& edit) {
    if (!workspace_.document.current()) return;
    Interpretation changed = workspace_.document.current()->interpretation;
    edit(changed);
    workspace_.document.editInterpretation(what, changed);
}

QString FootageStep::refresh() {
    const Shot* shot = workspace_.document.current();
    if (!shot) return {};
    const MediaState& state = workspace_.document.media().state(shot->media);
    const bool ready = state.stage == MediaState::Stage::ready;
    progress_->setVisible(state.stage == MediaState::Stage::opening ||
                          state.stage == MediaState::Stage::indexing ||
                          (ready && !state.findings && state.measured >= 0));
    progress_->setValue(static_cast<int>((ready ? state.measured : state.progress) * 100));
    proposals_->setVisible(ready);
    showSuitability(state);
    controls_->setVisible(ready);
    asFile_->setVisible(ready && !shot->interpretation.isDefault());
    findAgain_->setVisible(state.stage == MediaState::Stage::failed);
    if (state.stage == MediaState::Stage::failed) {
        facts_->hide();
        showProblem(remark_, state.trouble);
        return tr("cannot be read");
    }
    facts_->show();
    if (state.stage == MediaState::Stage::opening) {
        facts_->setText(tr("Opening…"));
        showProblem(remark_, {});
        return tr("opening");
    }
    showFacts(state);
    showProblem(remark_, text(state.facts.remark));
    if (ready) {
        showProposals(state);
        showControls(state);
    }
    return outcome(state);
}

void FootageStep::showFacts(const MediaState& state) {
    const MediaFacts& f = state.facts;
    QString rows;
    const auto row = [&](const QString& name, const QString& value) {
        rows += QStringLiteral("<tr><td style='color:%1; padding-right:10px'>%2</td><td>%3</td></tr>")
                    .arg(shades().faint.name(), name, value.toHtmlEscaped());
    };
    row(tr("File"), text(f.path.filename().string()));
    row(tr("Rate"), tr("%1 fps (%2)%3")
                        .arg(shownDecimal(f.rate.display()), text(f.rate.toString()),
                             f.constantRate ? QString() : tr(", timestamps vary")));
    row(tr("Frames"), state.stage == MediaState::Stage::ready
                          ? tr("%1 · %2").arg(f.frames).arg(seconds(f.seconds()))
                          : tr("counting…"));
    row(tr("Scan"), named(name(f.scan)));
    if (state.findings)
        row(tr("Measured"), named(state.findings->describe()));
    else if (state.measured >= 0)
        row(tr("Measured"), tr("%1 % seen…").arg(static_cast<int>(state.measured * 100)));
    const Interpretation in = workspace_.document.currentInterpretation();
    if (const auto taken = workspace_.document.currentFacts(); taken && !in.isDefault()) {
        QString how = tr("%1 fps, %2 frames").arg(shownDecimal(taken->rate.display())).arg(taken->frames);
        if (in.fields != FieldUse::asCoded) how += tr(", %1").arg(named(name(in.fields)));
        if (in.evenTimes) how += tr(", even timestamps");
        row(tr("Taken as"), how);
    }
    row(tr("Picture"),
        tr("%1 × %2").arg(f.width).arg(f.height) +
            (f.pixelAspect == Rational(1) ? QString()
                                          : tr(", pixels %1").arg(text(f.pixelAspect.toString()))));
    row(tr("Samples"),
        text(f.layout.describe()) + (f.colour.fullRange ? tr(", full range") : tr(", limited range")));
    if (const std::string colour = describeColour(f.colour); !colour.empty())
        row(tr("Colour"),
            text(colour) +
                (isToneMapped(f.colour) ? tr("; shown tone-mapped, rendered as it is") : QString()));
    if (!f.timecode.empty())
        row(tr("Timecode"),
            text(f.timecode) + (f.reel.empty() ? QString() : tr(", reel %1").arg(text(f.reel))));
    row(tr("Codec"), text(f.codec) + tr(" in ") + text(f.container).section(QLatin1Char(','), 0, 0));
    row(tr("Sound"), f.hasSound ? tr("yes") : tr("none"));
    if (f.rotation != 0) row(tr("Turned"), tr("by %1° when played").arg(f.rotation));
    facts_->setText(
        QStringLiteral("<table cellspacing='0' cellpadding='1' style='font-size:12px'>%1</table>").arg(rows));
    facts_->setToolTip(text(f.path.string()));
}

void FootageStep::showSuitability(const MediaState& state) {
    suitability_->setVisible(state.suitability != nullptr);
    if (!state.suitability) return;
    const Suitability& s = *state.suitability;
    QString words = QStringLiteral("<b>%1</b>").arg(text(s.sentence()).toHtmlEscaped());
    if (s.placesMoving > 0)
        words += QStringLiteral("<br>") + tr("Moves %1 px a frame, at most %2 (%3 % of the width).")
                                              .arg(shownNumber(s.typicalMotion, 1))
                                              .arg(s.largestMotion, 0, 'f', 0)
                                              .arg(shownNumber(100 * s.largestShare, 1));
    for (const std::string& remark : s.remarks)
        words += QStringLiteral("<br>") + text(remark).toHtmlEscaped();
    suitability_->setText(words);
    suitability_->setToolTip(
        tr("At %1 places of the shot, real frames were made again from their neighbours; %2 % of their "
           "pixels differ visibly. A starting point; the eye decides.")
            .arg(s.placesTried)
            .arg(shownNumber(100 * s.visible, 2)));
}

void FootageStep::showProposals(const MediaState& state) {
    std::vector<Proposal> proposals;
    if (state.findings)
        proposals =
            proposalsFor(*state.index, *state.findings, workspace_.document.current()->interpretation);
    const auto same = [](const Proposal& a, const Proposal& b) {
        return a.sentence == b.sentence && a.action == b.action && a.then == b.then;
    };
    if (std::equal(proposals.begin(), proposals.end(), shownProposals_.begin(), shownProposals_.end(), same))
        return;
    shownProposals_ = proposals;
    // Later, since it may be one of these buttons whose click led here.
    for (auto* old : proposals_->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly)) {
        old->hide();
        old->deleteLater();
    }
    auto* rows = qobject_cast<QVBoxLayout*>(proposals_->layout());
    while (QLayoutItem* item = rows->takeAt(0))
        std::unique_ptr<QLayoutItem> taken(item);
    bool first = true;
    for (const Proposal& proposal : proposals) {
        if (!proposal.sentence.empty()) {
            auto* sentence = new QLabel(text(proposal.sentence));
            sentence->setWordWrap(true);
            if (!proposal.action.empty()) sentence->setStyleSheet(QStringLiteral("font-weight: 600;"));
            rows->addWidget(sentence);
        }
        if (proposal.action.empty()) continue;
        auto* button = new QPushButton(text(proposal.action));
        button->setFocusPolicy(Qt::TabFocus);
        if (first) button->setProperty("role", "main");
        first = false;
        rows->addWidget(button);
        connect(button, &QPushButton::clicked, this, [this, proposal] {
            workspace_.document.editInterpretation(text(proposal.action).toLower(), proposal.then);
        });
    }
}

void FootageStep::showControls(const MediaState& state) {
    const Interpretation& in = workspace_.document.current()->interpretation;
    const Rate rate =
        in.rate.value_or(in.evenTimes ? workspace_.document.currentFacts()->rate : state.facts.rate);
    rate_->setShown(shownDecimal(rate.display()));
    aspect_->setShown(text(in.pixelAspect.value_or(state.facts.pixelAspect).toString()));
    const auto select = [](ChoiceBox* box, int value) {
        box->setCurrentIndex(std::max(0, box->findData(value)));
    };
    // Pulldown is offered only where it was found or is in use.
    const int film = fields_->findData(static_cast<int>(FieldUse::removePulldown));
    if (in.fields == FieldUse::removePulldown && film < 0)
        fields_->addItem(tr("film frames"), static_cast<int>(FieldUse::removePulldown));
    else if (in.fields != FieldUse::removePulldown && film >= 0)
        fields_->removeItem(film);
    select(fields_, static_cast<int>(in.fields));
    select(order_, in.topFirst ? (*in.topFirst ? 1 : 0) : -1);
    select(turn_, in.rotation);
    select(range_, in.fullRange ? (*in.fullRange ? 1 : 0) : -1);
    select(matrix_, in.matrix.value_or(-1));
}

QString FootageStep::outcome(const MediaState& state) const {
    const MediaFacts f = workspace_.document.currentFacts().value_or(state.facts);
    const Interpretation in = workspace_.document.currentInterpretation();
    QString scan =
        f.scan == Scan::unknown ? tr("scan unknown") : named(name(f.scan)).section(QLatin1Char(','), 0, 0);
    if (in.fields == FieldUse::removePulldown) scan = tr("pulldown removed");
    if (in.fields == FieldUse::toFrames || in.fields == FieldUse::toFields) scan = tr("deinterlaced");
    if (in.fields == FieldUse::asCoded && state.findings && state.findings->decided() &&
        state.findings->kind() != CadenceKind::progressive)
        scan = named(name(state.findings->kind())) + tr(" found");
    return tr("%1 fps, %2, %3 bit").arg(shownDecimal(f.rate.display()), scan).arg(f.layout.depth);
}

} // namespace yarngap::app
