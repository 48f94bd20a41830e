#include "app/steps/in_betweens_step.h"

#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "app/look/theme.h"
#include "core/error.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

namespace {

constexpr auto translate = [](const char* words) { return InBetweensStep::tr(words); };

QString words(FlowQuality value) {
    return text(name(value));
}

QString words(AnalyseOn value) {
    switch (value) {
    case AnalyseOn::asIs:
        return translate("the picture as it is");
    case AnalyseOn::contrast:
        return translate("contrast lifted");
    case AnalyseOn::edges:
        return translate("edges");
    }
    return {};
}

QString words(InFront value) {
    switch (value) {
    case InFront::judged:
        return translate("judged per pixel");
    case InFront::slower:
        return translate("the slower motion");
    case InFront::faster:
        return translate("the faster motion");
    }
    return {};
}

QString words(Sides value) {
    switch (value) {
    case Sides::both:
        return translate("both source frames");
    case Sides::before:
        return translate("the one before only");
    case Sides::after:
        return translate("the one after only");
    }
    return {};
}

QString words(StandIn value) {
    switch (value) {
    case StandIn::blend:
        return translate("blend");
    case StandIn::repeat:
        return translate("repeat");
    case StandIn::side:
        return translate("one side");
    }
    return {};
}

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

InBetweensStep::InBetweensStep(Workspace& workspace)
    : StepBody(workspace)
    , methods_(new QButtonGroup(this))
    , explanation_(faintLabel())
    , stretches_(faintLabel())
    , everywhere_(new QPushButton(tr("Same everywhere")))
    , problem_(problemLabel())
    , flow_(nullptr)
    , moreSettings_(nullptr)
    , try_(new QPushButton(tr("Try four settings")))
    , more_(new QToolButton)
    , matte_(new MatteSettings(workspace)) {
    auto* layout = bodyLayout(this);
    struct Button {
        Method method;
        const char* objectName;
        QString label;
    };
    const std::initializer_list<Button> buttons{{Method::sample, "methodSample", tr("Sampling")},
                                                {Method::blend, "methodBlend", tr("Blending")},
                                                {Method::flow, "methodFlow", tr("Flow")}};
    auto* methodRow = new QHBoxLayout;
    methodRow->setSpacing(4);
    int key = 1;
    for (const auto& [method, objectName, label] : buttons) {
        auto* button = new QPushButton(label);
        button->setObjectName(QString::fromLatin1(objectName));
        button->setAccessibleName(text(name(method)));
        button->setCheckable(true);
        button->setToolTip(tr("%1 (key %2)").arg(text(name(method))).arg(key++));
        button->setStyleSheet(QStringLiteral("QPushButton { padding: 4px 0; } QPushButton:checked { "
                                             "background: #2E4A86; color: white; border-color: #2E4A86; }"));
        methods_->addButton(button, static_cast<int>(method));
        methodRow->addWidget(button, 1);
    }
    layout->addLayout(methodRow);
    layout->addWidget(explanation_);
    flow_ = buildFlow();
    layout->addWidget(flow_);
    layout->addWidget(problem_);
    layout->addWidget(stretches_);
    layout->addWidget(everywhere_);
    stretches_->setObjectName(QStringLiteral("methodStretches"));
    everywhere_->setObjectName(QStringLiteral("methodEverywhere"));
    connect(everywhere_, &QPushButton::clicked, this, [this] {
        if (!workspace_.document.current()) return;
        Shot shot = *workspace_.document.current();
        shot.methodStretches.clear();
        workspace_.document.edit(tr("same method everywhere"), shot);
    });
    connect(methods_, &QButtonGroup::idClicked, this, [this](int id) { setMethod(static_cast<Method>(id)); });
}

template <typename Value>
ChoiceBox* InBetweensStep::choice(const char* objectName, const QString& caption,
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

ValueField* InBetweensStep::number(const char* objectName, const QString& caption, const QString& unit,
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
            refresh();
        } catch (const Error& error) {
            field->refuse(QString::fromStdString(error.what()));
        }
    });
    connect(field, &ValueField::stepped, this, [this, step, most, kind, put, setting](int steps, bool) {
        if (!workspace_.document.current()) return;
        InBetweens now = workspace_.document.current()->inBetweens;
        put(std::clamp(setting(now) + steps * step, 0, most), kind);
    });
    connect(field, &ValueField::refused, this, [this](const QString& s) { showProblem(problem_, s); });
    shown_.emplace_back([field, unit, setting](const InBetweens& settings) {
        InBetweens copy = settings;
        const QString value = QString::number(setting(copy));
        field->setShown(unit.isEmpty() ? value : value + QLatin1Char(' ') + unit);
    });
    return field;
}

QCheckBox* InBetweensStep::flag(const char* objectName, const QString& caption, const QString& purpose,
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

QWidget* InBetweensStep::buildFlow() {
    auto* body = new QWidget;
    auto* layout = new QVBoxLayout(body);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(6);
    const auto qualities = {FlowQuality::draft, FlowQuality::standard, FlowQuality::thorough};
    auto* work = choice<FlowQuality>(
        "qualityBox", tr("Quality on screen"), qualities, words,
        [](InBetweens& s) -> FlowQuality& { return s.flow.quality; },
        // What was looked at and liked is not rendered worse.
        [](InBetweens& s) { s.finalQuality = std::max(s.finalQuality, s.flow.quality); });
    const QString tiers =
        tr("draft: while trying things out\nstandard: for most shots\nthorough: where outlines "
           "tear; about six times as slow");
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
    layout->addLayout(both);
    auto* stiffness = number("stiffnessField", tr("Stiffness"), {}, 5, FlowOptions::stiffest, editStiffness,
                             [](InBetweens& s) -> int& { return s.flow.stiffness; });
    const QString purpose = tr("0 loose: people, cloth.\n100 stiff: a camera move over a still scene.");
    stiffness->setToolTip(purpose);
    stiffness->setFixedWidth(64);
    auto* stiffnessRow = new QHBoxLayout;
    stiffnessRow->setSpacing(8);
    stiffnessRow->addWidget(captioned(tr("Stiffness"), stiffness), 0, Qt::AlignTop);
    stiffnessRow->addWidget(small(purpose), 1);
    layout->addLayout(stiffnessRow);
    auto* buttons = new QVBoxLayout;
    buttons->setSpacing(6);
    try_->setObjectName(QStringLiteral("tryButton"));
    try_->setToolTip(tr("Shows this frame with four settings beside each other, to choose from"));
    connect(try_, &QPushButton::clicked, this, &InBetweensStep::tryAsked);
    more_->setObjectName(QStringLiteral("moreInBetweens"));
    more_->setText(tr("More"));
    more_->setAccessibleName(tr("More settings"));
    more_->setCheckable(true);
    more_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    more_->setArrowType(Qt::RightArrow);
    more_->setAutoRaise(true);
    buttons->addWidget(try_);
    buttons->addWidget(more_, 0, Qt::AlignLeft);
    layout->addLayout(buttons);
    moreSettings_ = buildMore();
    moreSettings_->hide();
    layout->addWidget(moreSettings_);
    connect(more_, &QToolButton::toggled, this, [this](bool on) {
        more_->setArrowType(on ? Qt::DownArrow : Qt::RightArrow);
        moreSettings_->setVisible(on);
    });
    return body;
}

QWidget* InBetweensStep::buildMore() {
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
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(
        captioned(tr("Trust limit"),
                  number("trustLimitField", tr("Trust limit"), QStringLiteral("%"), 5, SynthesisOptions::strictestTrust, editTrustLimit,
                         [](InBetweens& s) -> int& { return s.synthesis.trustLimit; })),
        1);
    row->addWidget(captioned(tr("Stand-in"),
                             choice<StandIn>("standInBox", tr("Stand-in"),
                                             {StandIn::blend, StandIn::repeat, StandIn::side}, words,
                                             [](InBetweens& s) -> StandIn& { return s.synthesis.standIn; })),
                   1);
    layout->addLayout(row);
    layout->addWidget(
        small(tr("Pixels trusted less come from the stand-in. 0 never; raise it where things tear.")));
    layout->addWidget(
        explained(tr("Motion blur (shutter angle)"),
                  number("shutterField", tr("Shutter angle"), QStringLiteral("°"), 15, SynthesisOptions::largestShutterAngle,
                         editShutter, [](InBetweens& s) -> int& { return s.synthesis.shutterAngle; }),
                  tr("180° blurs over half of each output frame; 0 not at all. Slow to make.")));
    const auto check = [&](const char* objectName, const QString& caption, const QString& purpose,
                           bool& (*setting)(InBetweens&)) {
        auto* pair = new QVBoxLayout;
        pair->setSpacing(0);
        pair->addWidget(flag(objectName, caption, purpose, setting));
        pair->addWidget(small(purpose));
        layout->addLayout(pair);
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
    return body;
}

void InBetweensStep::change(const QString& what, const std::function<void(InBetweens&)>& edit, int kind) {
    if (!workspace_.document.current()) return;
    Shot shot = *workspace_.document.current();
    edit(shot.inBetweens);
    workspace_.document.edit(what, shot, kind);
}

void InBetweensStep::setMethod(Method method) {
    if (!workspace_.document.current()) return;
    Shot shot = *workspace_.document.current();
    if (const auto gaps = workspace_.selectedGaps())
        shot.methodStretches =
            withMethodOn(shot.methodStretches, gaps->first, gaps->second, method, shot.method);
    else
        shot.method = method;
    workspace_.document.edit(text(name(method)), shot);
    refresh(); // the button pressed is not the method of the shot when a stretch was meant
}

void InBetweensStep::refreshMethods(const Shot& shot) {
    if (auto* button = methods_->button(static_cast<int>(shot.method))) button->setChecked(true);
    switch (shot.method) {
    case Method::sample:
        explanation_->setText(tr("Repeats the nearest source frame. Nothing is made up; motion stutters."));
        break;
    case Method::blend:
        explanation_->setText(tr("Cross-fades the frames around. Motion is smooth but doubled."));
        break;
    case Method::flow:
        explanation_->setText(
            tr("Moves pixels along their motion. Looks filmed; can tear where they go far."));
        break;
    }
}

QString InBetweensStep::refresh() {
    const Shot* shot = workspace_.document.current();
    setEnabled(shot != nullptr);
    if (!shot) return {};
    refreshMethods(*shot);
    const bool flow = shot->method == Method::flow ||
                      std::any_of(shot->methodStretches.begin(), shot->methodStretches.end(),
                                  [](const MethodStretch& s) { return s.method == Method::flow; });
    flow_->setVisible(flow);
    for (const auto& show : shown_)
        show(shot->inBetweens);
    matte_->refresh(*shot);
    const bool setUnderMore = shot->inBetweens.flow.analyseOn != AnalyseOn::asIs ||
                              shot->inBetweens.synthesis != SynthesisOptions() || !shot->matte.empty();
    more_->setText(setUnderMore ? tr("More (changed)") : tr("More"));
    more_->setToolTip(setUnderMore ? tr("Something under here is not as usual") : QString());
    QStringList others;
    for (const MethodStretch& s : shot->methodStretches)
        others << (s.first == s.last
                       ? tr("gap %1: %2").arg(s.first).arg(text(name(s.method)))
                       : tr("gaps %1 to %2: %3").arg(s.first).arg(s.last).arg(text(name(s.method))));
    constexpr qsizetype shown = 4;
    if (others.size() > shown) others = others.mid(0, shown) << tr("and %1 more").arg(others.size() - shown);
    stretches_->setText(others.isEmpty()
                            ? tr("Select a stretch in the thread chart (Shift and drag) to give it another.")
                            : others.join(QLatin1Char('\n')));
    everywhere_->setVisible(!others.isEmpty());
    QString outcome = methods_->button(static_cast<int>(shot->method))->text().toLower();
    if (flow) {
        outcome += QStringLiteral(", ") + words(shot->inBetweens.flow.quality);
        // In few words, since the line is short.
        if (shot->inBetweens.flow.stiffness != FlowOptions::defaultStiffness)
            outcome += tr(", stiff %1").arg(shot->inBetweens.flow.stiffness);
    }
    if (!others.isEmpty())
        outcome += others.size() == 1 ? tr(", 1 stretch otherwise")
                                      : tr(", %1 stretches otherwise").arg(others.size());
    return outcome;
}

} // namespace yarngap::app
