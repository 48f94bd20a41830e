#include "app/steps/flow_settings.h"

#include "app/steps/setting_words.h"
#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

namespace {

QLabel* small(const QString& words) {
    auto* label = faintLabel(words);
    label->setWordWrap(true);
    label->setStyleSheet(QStringLiteral("font-size: 11px;"));
    return label;
}

/// A setting under its caption, with what it is for below.
QWidget* explained(const QString& caption, QWidget* field, const QString& purpose) {
    auto* box = captioned(caption, field);
    box->layout()->addWidget(small(purpose));
    field->setToolTip(purpose);
    return box;
}

} // namespace

FlowSettings::FlowSettings(Workspace& workspace, QWidget* parent)
    : QWidget(parent)
    , workspace_(workspace)
    , try_(new QPushButton(tr("Try four settings")))
    , more_(new QToolButton)
    , matte_(new MatteSettings(workspace))
    , moreSettings_(nullptr) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(6);
    layout->addLayout(buildQualities());
    layout->addLayout(buildStiffness());
    layout->addLayout(buildButtons());
    moreSettings_ = buildMore();
    moreSettings_->hide();
    layout->addWidget(moreSettings_);
    connect(more_, &QToolButton::toggled, this, [this](bool on) {
        more_->setArrowType(on ? Qt::DownArrow : Qt::RightArrow);
        moreSettings_->setVisible(on);
    });
}

template <typename Value>
ChoiceBox* FlowSettings::choice(const char* objectName, const QString& caption,
                                std::initializer_list<Value> values, QString (*wordsOf)(Value),
                                Value& (*setting)(InBetweens&), void (*also)(InBetweens&)) {
    auto* box = new ChoiceBox;
    box->setObjectName(QString::fromLatin1(objectName));
    box->setAccessibleName(caption);
    for (const Value value : values)
        box->addItem(wordsOf(value), static_cast<int>(value));
    connect(box, &QComboBox::activated, this, [this, box, caption, setting, also](int i) {
        const auto value = static_cast<Value>(box->itemData(i).toInt());
        change(caption.toLower(), [&](InBetweens& settings) {
            setting(settings) = value;
            if (also) also(settings);
        });
    });
    shown_.emplace_back([box, setting](const InBetweens& settings) {
        InBetweens copy = settings;
        box->setCurrentIndex(box->findData(static_cast<int>(setting(copy))));
    });
    return box;
}

ValueField* FlowSettings::number(const char* objectName, const QString& caption, const QString& unit,
                                 int step, int most, int kind, int& (*setting)(InBetweens&)) {
    auto* field = new ValueField(caption);
    field->setObjectName(QString::fromLatin1(objectName));
    const auto put = [this, caption, setting](int value, int merge) {
        change(
            caption.toLower(), [&](InBetweens& settings) { setting(settings) = value; }, merge);
    };
    connect(field, &ValueField::typed, this, [this, field, unit, most, put](const QString& typed) {
        try {
            const std::int64_t value = wholeNumber(typed, {unit.toUtf8().constData(), "%"});
            if (value < 0 || value > most) throw Error("This goes from 0 to " + std::to_string(most) + ".");
            put(static_cast<int>(value), 0);
            if (workspace_.document.current()) refresh(*workspace_.document.current());
        } catch (const Error& error) {
            field->refuse(QString::fromStdString(error.what()));
        }
    });
    connect(field, &ValueField::stepped, this, [this, step, most, kind, put, setting](int steps, bool) {
        if (!workspace_.document.current()) return;
        InBetweens now = workspace_.document.current()->inBetweens;
        put(std::clamp(setting(now) + steps * step, 0, most), kind);
    });
    connect(field, &ValueField::refused, this, [this](const QString& s) { Q_EMIT refused(s); });
    shown_.emplace_back([field, unit, setting](const InBetweens& settings) {
        InBetweens copy = settings;
        const QString value = QString::number(setting(copy));
        field->setShown(unit.isEmpty() ? value : value + QLatin1Char(' ') + unit);
    });
    return field;
}

QCheckBox* FlowSettings::flag(const char* objectName, const QString& caption, const QString& purpose,
                              bool& (*setting)(InBetweens&)) {
    auto* box = new QCheckBox(caption);
    box->setObjectName(QString::fromLatin1(objectName));
    box->setToolTip(purpose);
    connect(box, &QCheckBox::clicked, this, [this, caption, setting](bool on) {
        change(caption.toLower(), [&](InBetweens& settings) { setting(settings) = on; });
    });
    shown_.emplace_back([box, setting](const InBetweens& settings) {
        InBetweens copy = settings;
        box->setChecked(setting(copy));
    });
    return box;
}

QLayout* FlowSettings::buildQualities() {
    const auto qualities = {FlowQuality::draft, FlowQuality::standard, FlowQuality::thorough};
    auto* work = choice<FlowQuality>(
        "qualityBox", tr("Quality on screen"), qualities, words,
        [](InBetweens& s) -> FlowQuality& { return s.flow.quality; },
        // What was looked at and liked is not rendered worse.
        [](InBetweens& s) { s.finalQuality = std::max(s.finalQuality, s.flow.quality); });
    const QString tiers = tr("draft: while trying things out\nstandard: for most shots\nthorough: where "
                             "outlines tear; takes about four times as long");
    work->setToolTip(tr("How well motion is estimated for the pictures in this window.\nThe render then uses "
                        "at least the same.") +
                     u'\n' + tiers);
    auto* final = choice<FlowQuality>("finalQualityBox", tr("Quality in the render"), qualities, words,
                                      [](InBetweens& s) -> FlowQuality& { return s.finalQuality; });
    final->setToolTip(tr("How well motion is estimated for the result.") + u'\n' + tiers);
    auto* both = new QGridLayout;
    both->setHorizontalSpacing(8);
    both->setVerticalSpacing(4);
    const auto captionedBox = [&](int row, const QString& caption, QWidget* box) {
        auto* label = faintLabel(caption);
        label->setWordWrap(false);
        both->addWidget(label, row, 0);
        both->addWidget(box, row, 1);
    };
    captionedBox(0, tr("Quality on screen"), work);
    captionedBox(1, tr("Quality in the render"), final);
    both->setColumnStretch(1, 1);
    return both;
}

QLayout* FlowSettings::buildStiffness() {
    auto* stiffness = number("stiffnessField", tr("Stiffness"), {}, 5, FlowOptions::stiffest, editStiffness,
                             [](InBetweens& s) -> int& { return s.flow.stiffness; });
    const QString purpose = tr("0 loose: people, cloth.\n100 stiff: a camera move over a still scene.");
    stiffness->setToolTip(purpose);
    stiffness->setFixedWidth(64);
    auto* stiffnessRow = new QHBoxLayout;
    stiffnessRow->setSpacing(8);
    stiffnessRow->addWidget(captioned(tr("Stiffness"), stiffness), 0, Qt::AlignTop);
    stiffnessRow->addWidget(small(purpose), 1);
    return stiffnessRow;
}

QLayout* FlowSettings::buildButtons() {
    auto* buttons = new QVBoxLayout;
    buttons->setSpacing(6);
    try_->setObjectName(QStringLiteral("tryButton"));
    try_->setToolTip(tr("Shows this frame with four settings beside each other, to choose from"));
    connect(try_, &QPushButton::clicked, this, &FlowSettings::tryAsked);
    more_->setObjectName(QStringLiteral("moreInBetweens"));
    more_->setText(tr("More"));
    more_->setAccessibleName(tr("More settings"));
    more_->setCheckable(true);
    more_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    more_->setArrowType(Qt::RightArrow);
    more_->setProperty("role", "fold");
    buttons->addWidget(try_);
    buttons->addWidget(more_, 0, Qt::AlignLeft);
    return buttons;
}

QWidget* FlowSettings::buildMore() {
    auto* body = new QWidget;
    auto* layout = new QVBoxLayout(body);
    layout->setContentsMargins(0, 2, 0, 0);
    layout->setSpacing(8);
    layout->addWidget(matte_);
    layout->addWidget(
        explained(tr("Analyse on"),
                  choice<AnalyseOn>("analyseOnBox", tr("Analyse on"),
                                    {AnalyseOn::asIs, AnalyseOn::contrast, AnalyseOn::edges}, words,
                                    [](InBetweens& s) -> AnalyseOn& { return s.flow.analyseOn; }),
                  tr("Contrast for faint or dark texture, edges for flicker and changing light.")));
    layout->addWidget(explained(
        tr("In front"),
        choice<InFront>("inFrontBox", tr("In front"), {InFront::judged, InFront::slower, InFront::faster},
                        words, [](InBetweens& s) -> InFront& { return s.synthesis.inFront; }),
        tr("Which motion covers the other where they cross.")));
    layout->addWidget(
        explained(tr("Pixels from"),
                  choice<Sides>("sidesBox", tr("Pixels from"), {Sides::both, Sides::before, Sides::after},
                                words, [](InBetweens& s) -> Sides& { return s.synthesis.sides; }),
                  tr("One side only where the other frame is damaged or hides something.")));
    layout->addLayout(buildTrust());
    layout->addWidget(
        small(tr("Pixels trusted less come from the stand-in. 0 never; raise it where things tear.")));
    layout->addWidget(
        explained(tr("Motion blur (shutter angle)"),
                  number("shutterField", tr("Shutter angle"), QStringLiteral("°"), 15,
                         SynthesisOptions::largestShutterAngle, editShutter,
                         [](InBetweens& s) -> int& { return s.synthesis.shutterAngle; }),
                  tr("180° blurs over half of each output frame; 0 not at all. Slow to make.")));
    addFlags(*layout);
    return body;
}

QLayout* FlowSettings::buildTrust() {
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(
        captioned(tr("Trust limit"), number("trustLimitField", tr("Trust limit"), QStringLiteral("%"), 5,
                                            SynthesisOptions::strictestTrust, editTrustLimit,
                                            [](InBetweens& s) -> int& { return s.synthesis.trustLimit; })),
        1);
    row->addWidget(captioned(tr("Stand-in"),
                             choice<StandIn>("standInBox", tr("Stand-in"),
                                             {StandIn::blend, StandIn::repeat, StandIn::side}, words,
                                             [](InBetweens& s) -> StandIn& { return s.synthesis.standIn; })),
                   1);
    return row;
}

void FlowSettings::addFlags(QVBoxLayout& layout) {
    const auto check = [&](const char* objectName, const QString& caption, const QString& purpose,
                           bool& (*setting)(InBetweens&)) {
        auto* pair = new QVBoxLayout;
        pair->setSpacing(0);
        pair->addWidget(flag(objectName, caption, purpose, setting));
        pair->addWidget(small(purpose));
        layout.addLayout(pair);
    };
    check("evenTextureBox", tr("Even texture"),
          tr("Originals go through synthesis too, so that sharpness does not pulse."),
          [](InBetweens& s) -> bool& { return s.synthesis.evenTexture; });
    check("bridgeRepeatsBox", tr("Pass over repeats"),
          tr("Frames that show the one before again are replaced, so that motion goes on evenly."),
          [](InBetweens& s) -> bool& { return s.synthesis.bridgeRepeats; });
    check("bendPathsBox", tr("Bend paths"),
          tr("Things that turn or change speed follow the curve that the gaps beside show, and a shaken "
             "camera its motion blur."),
          [](InBetweens& s) -> bool& { return s.synthesis.bendPaths; });
    check("keepGrainBox", tr("Keep grain"),
          tr("Made frames keep the strength of the grain instead of smoothing it."),
          [](InBetweens& s) -> bool& { return s.synthesis.keepGrain; });
    check("linearLightBox", tr("Mix as light"), tr("Highlights stay bright where pictures cross."),
          [](InBetweens& s) -> bool& { return s.synthesis.linearLight; });
}

void FlowSettings::change(const QString& what, const std::function<void(InBetweens&)>& edit, int kind) {
    if (!workspace_.document.current()) return;
    Shot shot = *workspace_.document.current();
    edit(shot.inBetweens);
    workspace_.document.edit(what, shot, kind);
}

void FlowSettings::refresh(const Shot& shot) {
    for (const auto& show : shown_)
        show(shot.inBetweens);
    matte_->refresh(shot);
    const bool setUnderMore = shot.inBetweens.flow.analyseOn != AnalyseOn::asIs ||
                              shot.inBetweens.synthesis != SynthesisOptions() || !shot.matte.empty();
    more_->setText(setUnderMore ? tr("More (changed)") : tr("More"));
    more_->setToolTip(setUnderMore ? tr("Something under More has been changed") : QString());
}

} // namespace yarngap::app
