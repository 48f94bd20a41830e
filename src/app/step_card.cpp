#include "app/step_card.h"

#include "app/theme.h"

#include <QPainter>
#include <QVBoxLayout>

namespace yarngap::app {

StepHeader::StepHeader(const QString& title, QWidget* parent)
    : QAbstractButton(parent) {
    setText(title);
    setCheckable(true);
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName(title);
    setFixedHeight(26);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void StepHeader::setOutcome(const QString& outcome) {
    if (outcome == outcome_) return;
    outcome_ = outcome;
    setToolTip(outcome);
    setAccessibleDescription(outcome);
    update();
}

QSize StepHeader::sizeHint() const {
    return {200, 26};
}

void StepHeader::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const QRect inner = rect().adjusted(10, 0, -8, 0);
    p.setFont(textFont(13, QFont::DemiBold));
    p.setPen(colour::ink);
    p.drawText(inner, Qt::AlignVCenter | Qt::AlignLeft, text());
    constexpr int nameWidth = 76;
    const int used = std::max(nameWidth, p.fontMetrics().horizontalAdvance(text()) + 8);
    if (!isChecked()) {
        p.setFont(textFont(12));
        p.setPen(colour::faint);
        const QRect place = inner.adjusted(used, 0, 0, 0);
        p.drawText(place, Qt::AlignVCenter | Qt::AlignLeft,
                   p.fontMetrics().elidedText(outcome_, Qt::ElideRight, place.width()));
    }
    if (hasFocus()) {
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(colour::indigo, 1));
        p.drawRoundedRect(QRectF(rect()).adjusted(2.5, 2.5, -2.5, -2.5), 3, 3);
    }
}

StepCard::StepCard(const QString& title, QWidget* body, QWidget* parent)
    : QFrame(parent)
    , header_(new StepHeader(title, this))
    , body_(body) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(header_);
    layout->addWidget(body_);
    body_->setParent(this);
    body_->hide();
    connect(header_, &QAbstractButton::toggled, this, [this](bool open) {
        body_->setVisible(open);
        update();
        header_->update();
        if (open) Q_EMIT opened();
    });
}

void StepCard::setOpen(bool open) {
    header_->setChecked(open);
}

void StepCard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(isOpen() ? colour::indigo : colour::seam, 1));
    p.setBrush(isOpen() ? colour::paper : colour::cloth);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
}

QLabel* faintLabel(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setProperty("role", "faint");
    label->setWordWrap(true);
    return label;
}

} // namespace yarngap::app
