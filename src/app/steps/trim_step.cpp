#include "app/steps/trim_step.h"

#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace yarngap::app {

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
    if (!timing) { // what another shot had is not this one's
        in_->setShown({});
        out_->setShown({});
        count_->clear();
        return {};
    }
    in_->setShown(QString::number(timing->from));
    out_->setShown(QString::number(timing->to));
    const auto media = workspace_.document.currentFacts();
    count_->setText(
        tr("%1 of %n source frames", nullptr, static_cast<int>(media->frames)).arg(timing->sourceFrames()));
    return tr("%1 to %2, %n frames", nullptr, static_cast<int>(timing->sourceFrames()))
        .arg(timing->from)
        .arg(timing->to);
}

} // namespace yarngap::app
