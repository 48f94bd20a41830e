#include "app/steps/finish_step.h"

#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

namespace yarngap::app {

FinishStep::FinishStep(Workspace& workspace, FinishWork& work)
    : StepBody(workspace)
    , work_(work)
    , frame_(new FrameRow(workspace))
    , edges_(new EdgesRow(workspace, work))
    , hold_(new HoldRow(workspace, work))
    , calm_(new CalmRow(workspace, work))
    , tone_(new ToneRow(workspace))
    , texture_(new TextureRow(workspace, work))
    , smear_(new SmearRow(workspace, work))
    , rows_{frame_, hold_, calm_, edges_, tone_, texture_, smear_}
    , workBox_(new QWidget)
    , workWords_(faintLabel())
    , progress_(new QProgressBar)
    , cancel_(new QPushButton(tr("Cancel")))
    , trouble_(problemLabel())
    , hint_(faintLabel(tr("Hold U to see the frame without."))) {
    QVBoxLayout* layout = bodyLayout(this);
    layout->setSpacing(0);
    auto* box = new QVBoxLayout(workBox_);
    box->setContentsMargins(0, 0, 0, 6);
    box->setSpacing(4);
    box->addWidget(workWords_);
    auto* line = new QHBoxLayout;
    line->setSpacing(6);
    progress_->setObjectName(QStringLiteral("finishProgress"));
    progress_->setTextVisible(false);
    progress_->setFixedHeight(6);
    cancel_->setObjectName(QStringLiteral("cancelFinishWork"));
    cancel_->setStyleSheet(QStringLiteral("padding: 2px 6px;"));
    line->addWidget(progress_, 1);
    line->addWidget(cancel_);
    box->addLayout(line);
    workBox_->hide();
    layout->addWidget(workBox_);
    layout->addWidget(trouble_);
    for (FinishRow* row : rows_) {
        layout->addWidget(row);
        connect(row, &FinishRow::opened, this, [this, row] {
            for (FinishRow* other : rows_)
                if (other != row) other->setOpen(false);
        });
    }
    layout->addWidget(hint_);
    connect(cancel_, &QPushButton::clicked, this, [this] { work_.cancel(); });
    connect(&work_, &FinishWork::changed, this, &FinishStep::showWork);
    connect(&work_, &FinishWork::failed, this,
            [this](const QString& sentence) { showProblem(trouble_, sentence); });
}

void FinishStep::showWork() {
    const bool isWorking = !work_.what().isEmpty();
    workBox_->setVisible(isWorking);
    if (!isWorking) return;
    showProblem(trouble_, {});
    progress_->setValue(static_cast<int>(100 * work_.progress()));
    workWords_->setText(work_.progress() > 0
                            ? tr("%1, %2 %…").arg(work_.what()).arg(static_cast<int>(100 * work_.progress()))
                            : work_.what() + QStringLiteral("…"));
}

QString FinishStep::refresh() {
    const Shot* shot = workspace_.document.current();
    const auto axis = workspace_.document.currentAxis();
    if (!shot || !axis) return {};
    for (FinishRow* row : rows_)
        row->refresh(shot->finish, axis->facts());
    hint_->setVisible(!shot->finish.isNothing());
    QStringList words;
    const auto add = [&](const QString& outcome, const QString& told) {
        if (!outcome.isEmpty()) words << told;
    };
    add(frame_->outcome(), frame_->outcome());
    add(hold_->outcome(), tr("held %1").arg(hold_->outcome()));
    add(calm_->outcome(), shot->finish.calm.isCalming() ? tr("calmed") : tr("camera not measured yet"));
    add(edges_->outcome(), edges_->outcome());
    add(tone_->outcome(), tr("tone"));
    add(texture_->outcome(), texture_->outcome());
    add(smear_->outcome(), tr("smeared"));
    return words.isEmpty() ? tr("nothing set") : words.join(QStringLiteral(", "));
}

} // namespace yarngap::app
