#include "app/steps/step_card.h"

#include "app/look/theme.h"

#include <QEvent>
#include <QPainter>
#include <QResizeEvent>
#include <QVBoxLayout>

#include <algorithm>

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
    p.setPen(shades().ink);
    p.drawText(inner, Qt::AlignVCenter | Qt::AlignLeft, text());
    constexpr int nameWidth = 76;
    const int used = std::max(nameWidth, p.fontMetrics().horizontalAdvance(text()) + 8);
    if (!isChecked()) {
        p.setFont(textFont(12));
        p.setPen(shades().faint);
        const QRect place = inner.adjusted(used, 0, 0, 0);
        p.drawText(place, Qt::AlignVCenter | Qt::AlignLeft,
                   p.fontMetrics().elidedText(outcome_, Qt::ElideRight, place.width()));
    }
    if (hasFocus()) {
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(shades().indigo, 1));
        p.drawRoundedRect(QRectF(rect()).adjusted(2.5, 2.5, -2.5, -2.5), 3, 3);
    }
}

StepScroll::StepScroll(QWidget* body) {
    setFrameShape(QFrame::NoFrame);
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::NoFocus);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
    setWidget(body);
    body->setAutoFillBackground(false); // the card is its ground
    viewport()->setAutoFillBackground(false);
    body->installEventFilter(this);
}

QSize StepScroll::sizeHint() const {
    // Words wrap, so the height depends on the width there is.
    const int wide = width();
    return {wide,
            widget()->hasHeightForWidth() ? widget()->heightForWidth(wide) : widget()->sizeHint().height()};
}

QSize StepScroll::minimumSizeHint() const {
    constexpr int enoughToScroll = 72;
    return {0, std::min(enoughToScroll, sizeHint().height())};
}

bool StepScroll::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::LayoutRequest) {
        updateGeometry();
        showBarIfNeeded();
        Q_EMIT bodyChanged();
    }
    return QScrollArea::eventFilter(watched, event);
}

void StepScroll::resizeEvent(QResizeEvent* event) {
    showBarIfNeeded();
    QScrollArea::resizeEvent(event);
    updateGeometry(); // another width wraps words otherwise
    Q_EMIT bodyChanged();
}

void StepScroll::showBarIfNeeded() {
    // Left to itself, a bar that takes some of the width makes the words so high that it is needed.
    const auto policy = height() < sizeHint().height() ? Qt::ScrollBarAlwaysOn : Qt::ScrollBarAlwaysOff;
    if (policy != verticalScrollBarPolicy()) setVerticalScrollBarPolicy(policy);
}

StepCard::StepCard(const QString& title, QWidget* body, QWidget* parent)
    : QFrame(parent)
    , header_(new StepHeader(title, this))
    , body_(new StepScroll(body)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(header_);
    layout->addWidget(body_);
    body_->hide();
    connect(body_, &StepScroll::bodyChanged, this, &StepCard::bodyChanged);
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
    p.setPen(QPen(isOpen() ? shades().indigo : shades().seam, 1));
    p.setBrush(isOpen() ? shades().paper : shades().cloth);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
}

QLabel* faintLabel(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setProperty("role", "faint");
    label->setWordWrap(true);
    return label;
}

} // namespace yarngap::app
