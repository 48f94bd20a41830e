#include "app/stage/phase_field.h"

#include <QHBoxLayout>
#include <QRegularExpression>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr int hundredths = 10'000; // of a percent, in the whole

} // namespace

std::optional<std::vector<Rational>> phasesFrom(const QString& text, std::size_t count) {
    std::vector<Rational> phases;
    const QStringList words =
        text.split(QRegularExpression(QStringLiteral("[\\s%;]+|,\\s+|,$")), Qt::SkipEmptyParts);
    for (QString word : words) {
        bool ok = false;
        const double percent = word.replace(QLatin1Char(','), QLatin1Char('.')).toDouble(&ok);
        if (!ok || !(percent >= 0 && percent <= 100)) return std::nullopt;
        const Rational phase(std::llround(percent * 100), hundredths);
        if (!phases.empty() && phase <= phases.back()) return std::nullopt;
        phases.push_back(phase);
    }
    if (!phases.empty() && phases.size() != count) return std::nullopt;
    return phases;
}

QString textOfPhases(const std::vector<Rational>& phases) {
    QStringList words;
    for (const Rational& phase : phases)
        words << QString::number(std::round(phase.toDouble() * hundredths) / 100);
    return words.join(QStringLiteral(", "));
}

PhaseField::PhaseField(QWidget* parent)
    : QWidget(parent)
    , caption_(new QLabel)
    , edit_(new ValueField(tr("Where the frames lie, in percent")))
    , hint_(new QLabel) {
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(8);
    layout->addStretch();
    for (QLabel* label : {caption_, hint_})
        label->setStyleSheet(QStringLiteral("color: #E4E2DD; font-size: 12px;"));
    layout->addWidget(caption_);
    edit_->setObjectName(QStringLiteral("sheetPhasesField"));
    edit_->setFixedWidth(160);
    edit_->setToolTip(
        tr("In percent of the way from the kept frame before to the one after. Up and Down move "
           "it by one percent; empty is where it lies by itself."));
    layout->addWidget(edit_);
    hint_->setObjectName(QStringLiteral("sheetPhasesHint"));
    layout->addWidget(hint_);
    layout->addStretch();
    connect(edit_, &ValueField::typed, this, &PhaseField::take);
    connect(edit_, &ValueField::stepped, this, [this](int steps) { step(steps); });
    connect(edit_, &ValueField::refused, this,
            [this](const QString& why) { hint_->setText(why.isEmpty() ? tr("% of the way") : why); });
    hide();
}

void PhaseField::setDecision(const CleanupDecision* decision) {
    if (!decision) {
        if (edit_->hasFocus()) Q_EMIT left();
        return hide();
    }
    const bool isPutIn = decision->kind == CleanupKind::putIn;
    count_ = isPutIn ? static_cast<std::size_t>(decision->count) : 1;
    phases_ = decision->phases;
    caption_->setText(isPutIn ? tr("The %n frames put in lie at", nullptr, static_cast<int>(count_))
                              : tr("The rebuilt frame lies at"));
    edit_->setPlaceholderText(isPutIn ? tr("even steps") : tr("its own moment"));
    edit_->setShown(textOfPhases(phases_));
    hint_->setText(tr("% of the way"));
    show();
}

void PhaseField::take(const QString& text) {
    const auto phases = phasesFrom(text, count_);
    if (!phases)
        return edit_->refuse(count_ == 1
                                 ? tr("Type one number from 0 to 100, or nothing.")
                                 : tr("Type %1 rising numbers from 0 to 100, or nothing.").arg(count_));
    Q_EMIT phasesSet(*phases);
    Q_EMIT left();
}

void PhaseField::step(int percents) {
    std::vector<Rational> phases = phases_;
    if (phases.empty()) // where they lie by themselves, as far as the field knows
        for (std::size_t k = 0; k < count_; ++k)
            phases.emplace_back(static_cast<std::int64_t>(k) + 1, static_cast<std::int64_t>(count_) + 1);
    const Rational by(percents, 100);
    if (phases.front() + by < Rational(0) || phases.back() + by > Rational(1)) return;
    for (Rational& phase : phases)
        phase = phase + by;
    Q_EMIT phasesSet(phases);
}

} // namespace yarngap::app
