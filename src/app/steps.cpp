#include "app/steps.h"

#include "app/step_layout.h"
#include "app/theme.h"
#include "core/error.h"
#include "core/time/timecode.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QVBoxLayout>

#include <cmath>
#include <tuple>

namespace yarngap::app {

namespace {

// Kinds of edits that merge into one step of undo while they follow each other.
enum EditKind { editSpeed = 1, editFactor, editFrames, editSeconds, editTimecode, editIn, editOut };

std::int64_t wholeNumber(const QString& typed, std::initializer_list<const char*> units) {
    const Rational value = Rational::parse(bare(typed, units));
    if (value.den() != 1) throw Error("A frame number is a whole number.");
    return value.num();
}

} // namespace

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
        t.from = from;
        t.to = to;
        return t;
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

// ---- Timing

TimingStep::TimingStep(Workspace& workspace)
    : StepBody(workspace)
    , speed_(new ValueField(tr("Speed in percent")))
    , factor_(new ValueField(tr("Length factor")))
    , frames_(new ValueField(tr("Output frames")))
    , seconds_(new ValueField(tr("Length in seconds")))
    , timecode_(new ValueField(tr("Length as timecode")))
    , rate_(new ChoiceBox)
    , counts_(new QLabel)
    , made_(faintLabel())
    , tail_(faintLabel())
    , problem_(problemLabel())
    , everyFrame_(new QPushButton(tr("Every frame")))
    , sameLength_(new QPushButton(tr("Same length"))) {
    speed_->setObjectName(QStringLiteral("speedField"));
    factor_->setObjectName(QStringLiteral("factorField"));
    frames_->setObjectName(QStringLiteral("framesField"));
    seconds_->setObjectName(QStringLiteral("secondsField"));
    timecode_->setObjectName(QStringLiteral("timecodeField"));
    rate_->setObjectName(QStringLiteral("rateBox"));
    everyFrame_->setObjectName(QStringLiteral("everyFrameButton"));
    sameLength_->setObjectName(QStringLiteral("sameLengthButton"));
    counts_->setObjectName(QStringLiteral("countsLabel"));
    counts_->setWordWrap(true);
    for (QWidget* field :
         std::initializer_list<QWidget*>{speed_, factor_, frames_, seconds_, timecode_, rate_})
        field->setMinimumWidth(30); // the row shares the column's width out
    rate_->setEditable(true);
    rate_->setInsertPolicy(QComboBox::NoInsert);
    rate_->setAccessibleName(tr("Output frame rate"));
    rate_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    rate_->setMinimumContentsLength(4);
    for (const char* r : {"23.976", "24", "25", "29.97", "30", "48", "50", "59.94", "60"})
        rate_->addItem(QString::fromLatin1(r));

    auto* layout = bodyLayout(this);
    const auto rowOf = [layout](std::initializer_list<std::tuple<QString, QWidget*, int>> fields) {
        auto* row = new QHBoxLayout;
        row->setSpacing(6);
        for (const auto& [caption, field, stretch] : fields)
            row->addWidget(captioned(caption, field), stretch);
        layout->addLayout(row);
    };
    rowOf({{tr("Speed"), speed_, 9}, {tr("Length"), factor_, 8}, {tr("Output"), frames_, 8}});
    rowOf({{tr("Seconds"), seconds_, 9}, {tr("Timecode"), timecode_, 13}, {tr("Rate, fps"), rate_, 9}});
    layout->addWidget(counts_);
    layout->addWidget(made_);
    layout->addWidget(tail_);
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(6);
    buttons->addWidget(everyFrame_);
    buttons->addWidget(sameLength_);
    layout->addLayout(buttons);
    layout->addWidget(problem_);
    everyFrame_->setToolTip(
        tr("The speed at which each source frame is shown exactly once at the output rate"));
    sameLength_->setToolTip(tr("100 %: the result runs as long as the source, whatever the output rate"));

    connect(speed_, &ValueField::typed, this, [this](const QString& t) {
        apply(*speed_, tr("speed"), 0,
              [&](const Timing& now) { return withSpeed(now, parseSpeed(bare(t, {}))); });
    });
    connect(speed_, &ValueField::stepped, this, [this](int steps, bool) {
        apply(*speed_, tr("speed"), editSpeed, [&](const Timing& now) {
            // To the next whole percent, and never to a standstill.
            const Rational percent = now.speed * Rational(100);
            const std::int64_t whole =
                steps > 0 ? percent.floor() : -Rational(-percent.num(), percent.den()).floor();
            return withSpeed(now, Rational(std::clamp<std::int64_t>(whole + steps, 1, 10000), 100));
        });
    });
    connect(factor_, &ValueField::typed, this, [this](const QString& t) {
        apply(*factor_, tr("length factor"), 0,
              [&](const Timing& now) { return withLengthFactor(now, Rational::parse(bare(t, {"x"}))); });
    });
    connect(factor_, &ValueField::stepped, this, [this](int steps, bool) {
        apply(*factor_, tr("length factor"), editFactor, [&](const Timing& now) {
            const std::int64_t tenths = (now.lengthFactor() * Rational(10)).round() + steps;
            return withLengthFactor(now, Rational(std::clamp<std::int64_t>(tenths, 1, 10000), 10));
        });
    });
    connect(frames_, &ValueField::typed, this, [this](const QString& t) {
        apply(*frames_, tr("output frames"), 0, [&](const Timing& now) {
            return withLengthFrames(now, wholeNumber(t, {"frames", "f"}));
        });
    });
    connect(frames_, &ValueField::stepped, this, [this](int steps, bool) {
        apply(*frames_, tr("output frames"), editFrames, [&](const Timing& now) {
            return withLengthFrames(now, std::max<std::int64_t>(1, now.outputFrames() + steps));
        });
    });
    connect(seconds_, &ValueField::typed, this, [this](const QString& t) {
        apply(*seconds_, tr("length"), 0,
              [&](const Timing& now) { return withLengthSeconds(now, Rational::parse(bare(t, {"s"}))); });
    });
    connect(seconds_, &ValueField::stepped, this, [this](int steps, bool) {
        apply(*seconds_, tr("length"), editSeconds, [&](const Timing& now) {
            const std::int64_t tenths = (now.outputSeconds() * Rational(10)).round() + steps;
            return withLengthSeconds(now, Rational(std::max<std::int64_t>(1, tenths), 10));
        });
    });
    connect(timecode_, &ValueField::typed, this, [this](const QString& t) {
        apply(*timecode_, tr("length"), 0, [&](const Timing& now) {
            const QString s = t.trimmed();
            return withLengthText(
                now, (s.contains(QLatin1Char(':')) || s.contains(QLatin1Char(';')) ? s : s + QLatin1Char('f'))
                         .toStdString());
        });
    });
    connect(timecode_, &ValueField::stepped, this, [this](int steps, bool) {
        apply(*timecode_, tr("length"), editTimecode, [&](const Timing& now) {
            return withLengthFrames(now, std::max<std::int64_t>(1, now.outputFrames() + steps));
        });
    });
    for (ValueField* field : {speed_, factor_, frames_, seconds_, timecode_})
        connect(field, &ValueField::refused, this, [this](const QString& s) { showProblem(problem_, s); });
    connect(rate_->lineEdit(), &QLineEdit::returnPressed, rate_, &QWidget::clearFocus);
    connect(rate_->lineEdit(), &QLineEdit::editingFinished, this, [this] { setRate(rate_->currentText()); });
    connect(rate_, &QComboBox::activated, this, [this](int i) { setRate(rate_->itemText(i)); });
    connect(everyFrame_, &QPushButton::clicked, this,
            [this] { apply(*speed_, tr("every frame"), 0, withEveryFrame); });
    connect(sameLength_, &QPushButton::clicked, this, [this] {
        apply(*speed_, tr("same length"), 0, [](const Timing& now) { return withSpeed(now, 1); });
    });
}

void TimingStep::setRate(const QString& typed) {
    const auto now = workspace_.document.currentTiming();
    if (!now) return;
    try {
        Timing changed = *now;
        changed.outputRate = Rate::parse(bare(typed, {"fps"}));
        validate(changed);
        showProblem(problem_, {});
        workspace_.document.editTiming(tr("output rate"), changed);
        refresh();
    } catch (const Error& error) {
        showProblem(problem_, QString::fromStdString(error.what()));
    }
}

QString TimingStep::refresh() {
    const auto timing = workspace_.document.currentTiming();
    const auto plan = workspace_.plan();
    setEnabled(timing.has_value());
    if (!timing || !plan) return {};
    const Timing& t = *timing;
    const QString speed = text(displayPercent(t.speed));
    speed_->setShown(speed);
    factor_->setShown(QStringLiteral("× ") + QString::number(t.lengthFactor().toDouble(), 'f', 2));
    frames_->setShown(tr("%1 f").arg(t.outputFrames()));
    seconds_->setShown(seconds(t.outputSeconds()));
    timecode_->setShown(text(Timecode(t.outputRate).format(t.outputFrames())));
    if (!rate_->lineEdit()->hasFocus() || !rate_->lineEdit()->isModified())
        rate_->setEditText(text(t.outputRate.display()));
    counts_->setText(tr("%1 source → %2 output frames").arg(t.sourceFrames()).arg(t.outputFrames()));
    const auto total = static_cast<std::int64_t>(plan->rows.size());
    const std::int64_t synthesised = plan->count(FrameKind::blend) + plan->count(FrameKind::flow);
    const std::int64_t repeats = plan->count(FrameKind::repeat);
    const std::int64_t held = plan->count(FrameKind::held);
    QStringList made{tr("%1 real").arg(total - synthesised - repeats - held)};
    if (synthesised > 0) made << tr("%1 synthesised").arg(synthesised);
    if (repeats > 0) made << tr("%1 repeats").arg(repeats);
    if (held > 0) made << tr("%1 held").arg(held);
    made_->setText(made.join(QStringLiteral(" · ")));
    showProblem(tail_, text(plan->tailSentence()));
    return tr("%1, %2 → %3, %4 s")
        .arg(speed)
        .arg(t.sourceFrames())
        .arg(t.outputFrames())
        .arg(std::round(t.outputSeconds().toDouble() * 1000) / 1000);
}

// ---- In-betweens

InBetweensStep::InBetweensStep(Workspace& workspace)
    : StepBody(workspace)
    , methods_(new QButtonGroup(this))
    , quality_(new ChoiceBox)
    , qualityLabel_(faintLabel(tr("Work per gap")))
    , explanation_(faintLabel()) {
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
    shot.method = method;
    workspace_.document.edit(text(name(method)), shot);
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
    return flow ? tr("%1, %2").arg(text(name(shot->method)), text(name(shot->quality)))
                : text(name(shot->method));
}

} // namespace yarngap::app
