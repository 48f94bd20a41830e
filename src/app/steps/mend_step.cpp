#include "app/steps/mend_step.h"

#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QLocale>
#include <QVBoxLayout>

#include <cmath>

namespace yarngap::app {

MendStep::MendStep(Workspace& workspace, DoubtSearch& search)
    : StepBody(workspace)
    , search_(search)
    , gap_(new GapMends)
    , state_(faintLabel())
    , limit_(new QSlider(Qt::Horizontal))
    , limitText_(new QLabel)
    , list_(new QPushButton(tr("Mending list")))
    , mendAll_(new QPushButton(tr("Mend all above"))) {
    state_->setObjectName(QStringLiteral("mendState"));
    limit_->setObjectName(QStringLiteral("doubtLimitSlider"));
    limit_->setAccessibleName(tr("Lowest doubt that is listed, in percent"));
    limit_->setRange(5, 95);
    limit_->setPageStep(5);
    limit_->setValue(static_cast<int>(std::lround(usualDoubtLimit * 100)));
    limitText_->setMinimumWidth(36);
    limitText_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    list_->setObjectName(QStringLiteral("mendingListButton"));
    list_->setCheckable(true);
    list_->setToolTip(tr("Doubtful gaps, worst first. [ and ] go to the one before and after"));
    mendAll_->setObjectName(QStringLiteral("mendAllButton"));
    mendAll_->setToolTip(
        tr("Try the cures on every open gap above the limit, and take the best where one is better "
           "than the frame as it is"));
    auto* layout = bodyLayout(this);
    layout->addWidget(gap_);
    auto* seam = new QWidget;
    seam->setFixedHeight(1);
    seam->setProperty("role", "seam");
    layout->addWidget(seam);
    layout->addWidget(state_);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(limit_, 1);
    row->addWidget(limitText_);
    auto* box = new QWidget;
    box->setLayout(row);
    row->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(captioned(tr("List gaps with a doubt from"), box));
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(8);
    buttons->addWidget(list_);
    buttons->addWidget(mendAll_);
    layout->addLayout(buttons);
    connect(limit_, &QSlider::valueChanged, this, [this] {
        showState();
        Q_EMIT limitChanged(limit());
    });
    connect(list_, &QPushButton::clicked, this, &MendStep::listAsked);
    connect(mendAll_, &QPushButton::clicked, this, &MendStep::mendAllAsked);
    for (const auto signal : {&DoubtSearch::changed, &DoubtSearch::mendingChanged})
        connect(&search_, signal, this, &MendStep::showState);
    showState();
}

double MendStep::limit() const {
    return limit_->value() / 100.0;
}

void MendStep::setListShown(bool on) {
    list_->setChecked(on);
}

QString MendStep::outcome() const {
    if (search_.isSearching()) return tr("looking, %1 %…").arg(static_cast<int>(search_.progress() * 100));
    const int all = counts_.open + counts_.mended + counts_.accepted;
    if (all == 0) return tr("nothing doubtful");
    if (counts_.mended == 0) return tr("%1 open of %2").arg(counts_.open).arg(all);
    return tr("%1 open of %2, %3 mended").arg(counts_.open).arg(all).arg(counts_.mended);
}

void MendStep::showState() {
    limitText_->setText(QLocale().toString(limit(), 'f', 2));
    mendAll_->setText(search_.isMending() ? tr("Stop") : tr("Mend all above"));
    mendAll_->setEnabled(search_.isMending() || counts_.open > 0);
    QString words;
    if (search_.isMending())
        words = tr("Trying cures, %1 %…").arg(static_cast<int>(search_.mendingProgress() * 100));
    else if (!search_.trouble().isEmpty())
        words = search_.trouble();
    state_->setText(words);
    state_->setVisible(!words.isEmpty());
}

QString MendStep::refresh() {
    showState();
    return outcome();
}

} // namespace yarngap::app
