// The step Timing: speed, length, rate, and the everyday shapes.

#include "app/steps/timing_step.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "app/look/wrapping_row.h"
#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"
#include "core/time/map_edits.h"
#include "core/time/timecode.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QVBoxLayout>

#include <cmath>
#include <tuple>

namespace yarngap::app {

namespace {

/// Whether the whole runs at one speed, if by a map whose end lies between two frames.
bool hasOneSpeed(const Timing& t) {
    return !t.varies() || (t.keys.size() == 2 && t.keys.front().after == Segment::constant);
}

} // namespace

TimingStep::TimingStep(Workspace& workspace)
    : StepBody(workspace)
    , speed_(new ValueField(tr("Speed in percent")))
    , factor_(new ValueField(tr("Length factor")))
    , frames_(new ValueField(tr("Output frames")))
    , seconds_(new ValueField(tr("Length in seconds")))
    , timecode_(new ValueField(tr("Length as timecode")))
    , rate_(new ChoiceBox)
    , counts_(new QLabel)
    , tail_(faintLabel())
    , problem_(problemLabel())
    , everyFrame_(new QPushButton(tr("Every frame")))
    , sameLength_(new QPushButton(tr("Same length")))
    , presetName_(new QLineEdit) {
    prepareFields();
    layOut();
    connectFields();
}

void TimingStep::prepareFields() {
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
    if (QLineEdit* typed = rate_->lineEdit()) typed->setAccessibleName(rate_->accessibleName());
    rate_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    rate_->setMinimumContentsLength(4);
    for (const char* r : {"23.976", "24", "25", "29.97", "30", "48", "50", "59.94", "60"})
        rate_->addItem(shownDecimal(r));
}

void TimingStep::layOut() {
    auto* layout = bodyLayout(this);
    // Two in a row, so that no value is cut: "12345.678 s" and "00:00:16:00" need half the column each.
    const auto rowOf = [layout](const QString& caption, QWidget* field, const QString& otherCaption,
                                QWidget* other) {
        auto* row = new QHBoxLayout;
        row->setSpacing(8);
        row->addWidget(captioned(caption, field), 1);
        row->addWidget(captioned(otherCaption, other), 1);
        layout->addLayout(row);
    };
    rowOf(tr("Speed"), speed_, tr("Length"), factor_);
    rowOf(tr("Output"), frames_, tr("Seconds"), seconds_);
    rowOf(tr("Timecode"), timecode_, tr("Rate, fps"), rate_);
    layout->addWidget(counts_);
    layOutShapes(*layout);
    presetName_->setObjectName(QStringLiteral("presetName"));
    presetName_->setAccessibleName(tr("Name of the preset"));
    presetName_->setPlaceholderText(tr("Name of the preset, then Enter"));
    presetName_->setMaxLength(60);
    presetName_->hide();
    layout->addWidget(presetName_);
    connect(presetName_, &QLineEdit::returnPressed, this, [this] { savePreset(presetName_->text()); });
    layout->addWidget(problem_);
    layout->addWidget(tail_); // comes and goes with every speed, and must not move the buttons
    layout->addStretch(1);    // nor must room that is not taken yet
    everyFrame_->setToolTip(
        tr("The speed at which each source frame is shown exactly once at the output rate"));
    sameLength_->setToolTip(tr("100 %: the result runs as long as the source, whatever the output rate"));
}

void TimingStep::layOutShapes(QVBoxLayout& layout) {
    const auto row = [&layout](std::initializer_list<QPushButton*> buttons) {
        auto* line = new WrappingRow(WrappingRow::Rest::shared);
        line->setSpacing(4);
        for (QPushButton* button : buttons) {
            button->setStyleSheet(QStringLiteral("font-size: 12px; padding: 4px 4px;"));
            line->addWidget(button);
        }
        layout.addLayout(line);
    };
    row({everyFrame_, sameLength_});
    row({shapeButton(tr("Add ramp"), "rampButton",
                     tr("Slow down around the playhead to a quarter of the speed there, eased in and out"),
                     &TimingStep::addRamp),
         shapeButton(tr("Freeze"), "freezeButton", tr("Stand still at the playhead for one second"),
                     &TimingStep::freezeHere),
         shapeButton(tr("Reverse"), "reverseButton", tr("Run backwards over the same source frames"),
                     &TimingStep::reverse)});
    row({shapeButton(tr("There && back"), "thereAndBackButton",
                     tr("Run to the last frame, turn softly, and run back"), &TimingStep::turnBack),
         shapeButton(tr("More"), "timingMoreButton", tr("Presets, further shapes, time map files"),
                     &TimingStep::showMore)});
}

void TimingStep::connectField(ValueField* field, const QString& what, int kind,
                              const std::function<Timing(const Timing&, const QString&)>& typed,
                              const std::function<Timing(const Timing&, int)>& stepped) {
    connect(field, &ValueField::typed, this, [this, field, what, typed](const QString& t) {
        apply(*field, what, 0, [&](const Timing& now) { return typed(now, t); });
    });
    connect(field, &ValueField::stepped, this, [this, field, what, kind, stepped](int steps, bool) {
        apply(*field, what, kind, [&](const Timing& now) { return stepped(now, steps); });
    });
    connect(field, &ValueField::refused, this, [this](const QString& s) { showProblem(problem_, s); });
}

void TimingStep::connectFields() {
    connectField(
        speed_, tr("speed"), editSpeed,
        [this](const Timing& now, const QString& t) { return withWholeSpeed(now, parseSpeed(bare(t, {}))); },
        [this](const Timing& now, int steps) {
            // To the next whole percent, and never to a standstill.
            const Rational percent = now.speed * Rational(100);
            const std::int64_t whole =
                steps > 0 ? percent.floor() : -Rational(-percent.num(), percent.den()).floor();
            return withWholeSpeed(now, Rational(std::clamp<std::int64_t>(whole + steps, 1, 10000), 100));
        });
    connectField(
        factor_, tr("length factor"), editFactor,
        [](const Timing& now, const QString& t) {
            return withLengthFactor(now, Rational::parse(bare(t, {"x"})));
        },
        [](const Timing& now, int steps) {
            const std::int64_t tenths = (now.lengthFactor() * Rational(10)).round() + steps;
            return withLengthFactor(now, Rational(std::clamp<std::int64_t>(tenths, 1, 10000), 10));
        });
    const auto oneFrameEach = [](const Timing& now, int steps) {
        return withLengthFrames(now, std::max<std::int64_t>(1, now.outputFrames() + steps));
    };
    connectField(
        frames_, tr("output frames"), editFrames,
        [](const Timing& now, const QString& t) {
            return withLengthFrames(now, wholeNumber(t, {"frames", "f"}));
        },
        oneFrameEach);
    connectField(
        seconds_, tr("length"), editSeconds,
        [](const Timing& now, const QString& t) {
            return withLengthSeconds(now, Rational::parse(bare(t, {"s"})));
        },
        [](const Timing& now, int steps) {
            const std::int64_t tenths = (now.outputSeconds() * Rational(10)).round() + steps;
            return withLengthSeconds(now, Rational(std::max<std::int64_t>(1, tenths), 10));
        });
    connectField(
        timecode_, tr("length"), editTimecode,
        [](const Timing& now, const QString& t) {
            const QString s = t.trimmed();
            const bool isTimecode = s.contains(QLatin1Char(':')) || s.contains(QLatin1Char(';'));
            return withLengthText(now, (isTimecode ? s : s + QLatin1Char('f')).toStdString());
        },
        oneFrameEach);
    connect(rate_->lineEdit(), &QLineEdit::returnPressed, rate_, &QWidget::clearFocus);
    connect(rate_->lineEdit(), &QLineEdit::editingFinished, this, [this] { setRate(rate_->currentText()); });
    connect(rate_, &QComboBox::activated, this, [this](int i) { setRate(rate_->itemText(i)); });
    connect(everyFrame_, &QPushButton::clicked, this,
            [this] { apply(*speed_, tr("every frame"), 0, withEveryFrame); });
    connect(sameLength_, &QPushButton::clicked, this, [this] {
        apply(*speed_, tr("same length"), 0, [](const Timing& now) { return withSpeed(now, 1); });
    });
}

/// One speed for the whole; a constant one keeps the length where the chart says so.
Timing TimingStep::withWholeSpeed(const Timing& now, const Rational& speed) const {
    return hasOneSpeed(now) ? withStretchAt(now, 0, speed, workspace_.keeping()) : withSpeed(now, speed);
}

/// "25 %", or "25 to 100 %" where the speed changes.
QString TimingStep::speedWords(const Timing& t) {
    if (!t.varies()) return shownDecimal(displayPercent(t.speed));
    const TimeMap map = t.map();
    const double factor = 100 * t.speedOf(1).toDouble();
    double least = 1e9;
    double most = -1e9;
    for (std::size_t i = 0; i + 1 < t.keys.size(); ++i)
        for (const double share : {1e-6, 0.5, 1 - 1e-6}) {
            const double from = t.keys[i].output.toDouble();
            const double speed =
                factor * map.speedAt(from + share * (t.keys[i + 1].output.toDouble() - from));
            least = std::min(least, speed);
            most = std::max(most, speed);
        }
    const auto rounded = [](double v) {
        return QString::number(std::llround(v)).replace(QLatin1Char('-'), QStringLiteral("−"));
    };
    return rounded(least) == rounded(most) ? tr("%1 %").arg(rounded(most))
                                           : tr("%1 to %2 %").arg(rounded(least), rounded(most));
}

void TimingStep::setRate(const QString& typed) {
    const auto now = workspace_.document.currentTiming();
    if (!now) return;
    try {
        const Timing changed = withOutputRate(*now, Rate::parse(bare(typed, {"fps"})));
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
    if (!timing || !plan) { // what another shot had is not this one's
        for (ValueField* field : {speed_, factor_, frames_, seconds_, timecode_})
            field->setShown({});
        rate_->setEditText({});
        counts_->clear();
        counts_->setToolTip({});
        showProblem(tail_, {});
        return {};
    }
    const Timing& t = *timing;
    const QString speed = speedWords(t);
    speed_->setShown(hasOneSpeed(t) ? speed : tr("varies"));
    factor_->setShown(QStringLiteral("× ") + shownNumber(t.lengthFactor().toDouble(), 2));
    frames_->setShown(tr("%1 f").arg(t.outputFrames()));
    seconds_->setShown(seconds(t.outputSeconds()));
    timecode_->setShown(text(Timecode(t.outputRate).format(t.outputFrames())));
    if (!rate_->lineEdit()->hasFocus() || !rate_->lineEdit()->isModified())
        rate_->setEditText(shownDecimal(t.outputRate.display()));
    counts_->setText(t.varies()
                         ? tr("%1 → %n frames at %2", nullptr, static_cast<int>(t.outputFrames()))
                               .arg(t.sourceFrames())
                               .arg(speed)
                         : tr("%1 source → %n output frames", nullptr, static_cast<int>(t.outputFrames()))
                               .arg(t.sourceFrames()));
    const auto total = static_cast<std::int64_t>(plan->rows.size());
    const std::int64_t synthesised = plan->count(FrameKind::blend) + plan->count(FrameKind::flow);
    const std::int64_t repeats = plan->count(FrameKind::repeat);
    const std::int64_t held = plan->count(FrameKind::held);
    QStringList made{tr("%1 real").arg(total - synthesised - repeats - held)};
    if (synthesised > 0) made << tr("%1 synthesised").arg(synthesised);
    if (repeats > 0) made << tr("%n repeats", nullptr, static_cast<int>(repeats));
    if (held > 0) made << tr("%1 held").arg(held);
    counts_->setToolTip(made.join(QStringLiteral(" · "))); // the chart counts them in its line, too
    showProblem(tail_, text(plan->endsSentence()));
    return tr("%1, %2 → %3, %4 s")
        .arg(speed)
        .arg(t.sourceFrames())
        .arg(t.outputFrames())
        .arg(std::round(t.outputSeconds().toDouble() * 1000) / 1000);
}

} // namespace yarngap::app
