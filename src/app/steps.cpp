#include "app/steps.h"

#include "app/step_edits.h"
#include "app/step_layout.h"
#include "app/theme.h"
#include "core/error.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QVBoxLayout>

#include <cmath>
#include <tuple>

namespace yarngap::app {

void StepBody::apply(ValueField& field, const QString& what, int kind,
                     const std::function<Timing(const Timing&)>& change) {
    const auto timing = workspace_.document.currentTiming();
    if (!timing) return;
    try {
        const Timing changed = change(*timing);
        validate(changed);
        workspace_.document.editTiming(what, changed, kind);
        refresh(); // also when nothing changed, so that the field shows the value again
    } catch (const Error& error) {
        field.refuse(QString::fromStdString(error.what()));
    }
}

// ---- Trim

TrimStep::TrimStep(Workspace& workspace)
    : StepBody(workspace)
    , in_(new ValueField(tr("First source frame")))
    , out_(new ValueField(tr("Last source frame")))
    , count_(faintLabel())
    , problem_(problemLabel()) {
    in_->setObjectName(QStringLiteral("inField"));
    out_->setObjectName(QStringLiteral("outField"));
    auto* layout = bodyLayout(this);
    auto* fields = new QHBoxLayout;
    fields->setSpacing(8);
    fields->addWidget(captioned(tr("In (first frame)"), in_));
    fields->addWidget(captioned(tr("Out (last frame)"), out_));
    layout->addLayout(fields);
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(8);
    auto* inHere = new QPushButton(tr("In here"));
    auto* outHere = new QPushButton(tr("Out here"));
    inHere->setToolTip(tr("Start at the source frame under the playhead (I)"));
    outHere->setToolTip(tr("End at the source frame under the playhead (O)"));
    buttons->addWidget(inHere);
    buttons->addWidget(outHere);
    layout->addLayout(buttons);
    layout->addWidget(count_);
    layout->addWidget(problem_);
    connect(inHere, &QPushButton::clicked, this, &TrimStep::setInAtPlayhead);
    connect(outHere, &QPushButton::clicked, this, &TrimStep::setOutAtPlayhead);
    const auto current = [this] { return workspace_.document.currentTiming().value_or(Timing{}); };
    const auto typedFrame = [this, current](ValueField* field, bool isIn, const QString& typed) {
        try {
            const std::int64_t n = wholeNumber(typed, {"frame", "f"});
            const Timing t = current();
            setFrames(*field, isIn ? tr("in point") : tr("out point"), 0, isIn ? n : t.from, isIn ? t.to : n);
        } catch (const Error& error) {
            field->refuse(QString::fromStdString(error.what()));
        }
    };
    connect(in_, &ValueField::typed, this,
            [this, typedFrame](const QString& t) { typedFrame(in_, true, t); });
    connect(out_, &ValueField::typed, this,
            [this, typedFrame](const QString& t) { typedFrame(out_, false, t); });
    connect(in_, &ValueField::stepped, this, [this, current](int steps, bool) {
        setFrames(*in_, tr("in point"), editIn, current().from + steps, current().to);
    });
    connect(out_, &ValueField::stepped, this, [this, current](int steps, bool) {
        setFrames(*out_, tr("out point"), editOut, current().from, current().to + steps);
    });
    for (ValueField* field : {in_, out_})
        connect(field, &ValueField::refused, this, [this](const QString& s) { showProblem(problem_, s); });
}

void TrimStep::setFrames(ValueField& field, const QString& what, int kind, std::int64_t from,
                         std::int64_t to) {
    const auto media = workspace_.document.currentFacts();
    if (!media) return;
    apply(field, what, kind, [&](Timing t) {
        if (from < 0 || to >= media->frames || from > to)
            throw Error("The trim can go from frame 0 to frame " + std::to_string(media->frames - 1) +
                        ", and its first frame must not come after its last.");
        return withTrim(std::move(t), from, to);
    });
}

void TrimStep::setInAtPlayhead() {
    if (const auto t = workspace_.document.currentTiming())
        setFrames(*in_, tr("in point"), 0, std::min(workspace_.sourceFrameAtPlayhead(), t->to), t->to);
}

void TrimStep::setOutAtPlayhead() {
    if (const auto t = workspace_.document.currentTiming())
        setFrames(*out_, tr("out point"), 0, t->from, std::max(workspace_.sourceFrameAtPlayhead(), t->from));
}

QString TrimStep::refresh() {
    const auto timing = workspace_.document.currentTiming();
    setEnabled(timing.has_value());
    if (!timing) return {};
    in_->setShown(QString::number(timing->from));
    out_->setShown(QString::number(timing->to));
    const auto media = workspace_.document.currentFacts();
    count_->setText(tr("%1 of %2 source frames").arg(timing->sourceFrames()).arg(media->frames));
    return tr("%1 to %2, %3 frames").arg(timing->from).arg(timing->to).arg(timing->sourceFrames());
}

// ---- In-betweens

InBetweensStep::InBetweensStep(Workspace& workspace)
    : StepBody(workspace)
    , methods_(new QButtonGroup(this))
    , quality_(new ChoiceBox)
    , qualityLabel_(faintLabel(tr("Work per gap")))
    , explanation_(faintLabel())
    , stretches_(faintLabel())
    , everywhere_(new QPushButton(tr("Same everywhere"))) {
    auto* layout = bodyLayout(this);
    const std::initializer_list<std::pair<Method, const char*>> buttons{
        {Method::sample, "methodSample"}, {Method::blend, "methodBlend"}, {Method::flow, "methodFlow"}};
    int key = 1;
    for (const auto& [method, objectName] : buttons) {
        QString label = text(name(method));
        label[0] = label[0].toUpper();
        auto* button = new QPushButton(label);
        button->setObjectName(QString::fromLatin1(objectName));
        button->setCheckable(true);
        button->setToolTip(tr("Key %1").arg(key++));
        button->setStyleSheet(QStringLiteral("QPushButton { text-align: left; } QPushButton:checked { "
                                             "background: #2E4A86; color: white; border-color: #2E4A86; }"));
        methods_->addButton(button, static_cast<int>(method));
        layout->addWidget(button);
    }
    layout->addWidget(explanation_);
    auto* row = new QHBoxLayout;
    row->addWidget(qualityLabel_);
    row->addWidget(quality_, 1);
    layout->addLayout(row);
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
    quality_->setObjectName(QStringLiteral("qualityBox"));
    quality_->setAccessibleName(tr("Work per gap"));
    for (const FlowQuality q : {FlowQuality::draft, FlowQuality::standard, FlowQuality::thorough})
        quality_->addItem(text(name(q)), static_cast<int>(q));
    connect(methods_, &QButtonGroup::idClicked, this, [this](int id) { setMethod(static_cast<Method>(id)); });
    connect(quality_, &QComboBox::activated, this, [this](int i) {
        if (!workspace_.document.current()) return;
        Shot shot = *workspace_.document.current();
        shot.quality = static_cast<FlowQuality>(quality_->itemData(i).toInt());
        workspace_.document.edit(tr("quality"), shot);
    });
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

QString InBetweensStep::refresh() {
    const Shot* shot = workspace_.document.current();
    setEnabled(shot != nullptr);
    if (!shot) return {};
    if (auto* button = methods_->button(static_cast<int>(shot->method))) button->setChecked(true);
    const bool flow = shot->method == Method::flow;
    quality_->setVisible(flow);
    qualityLabel_->setVisible(flow);
    quality_->setCurrentIndex(quality_->findData(static_cast<int>(shot->quality)));
    switch (shot->method) {
    case Method::sample:
        explanation_->setText(tr("Repeats the nearest source frame. Nothing is made up; motion stutters."));
        break;
    case Method::blend:
        explanation_->setText(tr("Cross-fades the frames around. Motion is smooth but doubled."));
        break;
    case Method::flow:
        explanation_->setText(tr(
            "Moves the pixels along their motion. Looks filmed; can tear where motion is large or hidden."));
        break;
    }
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
    QString outcome = text(name(shot->method));
    if (flow) outcome += QStringLiteral(", ") + text(name(shot->quality));
    if (!others.isEmpty())
        outcome += others.size() == 1 ? tr(", 1 stretch otherwise")
                                      : tr(", %1 stretches otherwise").arg(others.size());
    return outcome;
}

} // namespace yarngap::app
