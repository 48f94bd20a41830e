#include "app/window/left_column.h"

#include "app/look/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPixmap>
#include <QTimer>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

namespace {

constexpr int columnMargin = 12;
constexpr int widestColumn = 420;

QLabel* heading(const QString& text) {
    auto* label = new QLabel(text);
    label->setProperty("role", "heading");
    label->setFixedHeight(18);
    return label;
}

/// A part of the column, to be filled from the top.
QVBoxLayout* sectionOf(QSplitter& column, int top) {
    auto* part = new QWidget;
    auto* layout = new QVBoxLayout(part);
    layout->setContentsMargins(columnMargin, top, columnMargin, 4);
    layout->setSpacing(4);
    column.addWidget(part);
    return layout;
}

} // namespace

QIcon columnIcon() {
    constexpr int size = 32; // drawn at twice the size for dense screens
    QPixmap pixmap(size, size);
    pixmap.fill(Qt::transparent);
    QPainter p(&pixmap);
    p.setPen(QPen(shades().ink, 2));
    p.drawRect(QRectF(3, 5, 26, 22));
    p.fillRect(QRectF(3, 5, 9, 22), shades().ink);
    return QIcon(pixmap);
}

LeftColumn::LeftColumn(ShotList* shots, QToolButton* playOn, QWidget* parent)
    : QWidget(parent)
    , shots_(shots)
    , parts_(new QSplitter(Qt::Vertical)) {
    setObjectName(QStringLiteral("leftColumn"));
    setMinimumWidth(columnWidth);
    setMaximumWidth(widestColumn);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(parts_);
    parts_->setObjectName(QStringLiteral("columnParts"));
    parts_->setChildrenCollapsible(false);
    parts_->setHandleWidth(8);

    QVBoxLayout* above = sectionOf(*parts_, 8);
    auto* row = new QHBoxLayout;
    row->addWidget(heading(tr("SHOTS")), 1);
    row->addWidget(playOn);
    above->addLayout(row);
    above->addWidget(shots, 1);

    QVBoxLayout* below = sectionOf(*parts_, 0);
    below->addWidget(heading(tr("STEPS")));
    steps_ = new QVBoxLayout;
    steps_->setSpacing(2);
    below->addLayout(steps_);
    below->addStretch(1);
    parts_->setStretchFactor(0, 0);
    parts_->setStretchFactor(1, 1);
    connect(parts_, &QSplitter::splitterMoved, this, [this] { dragged_ = true; });
    connect(shots_, &ShotList::counted, this, &LeftColumn::fitShots);
}

void LeftColumn::fitShots() {
    if (dragged_) return;
    const int above = parts_->widget(0)->sizeHint().height();
    parts_->setSizes({above, std::max(1, parts_->height() - parts_->handleWidth() - above)});
}

void LeftColumn::fitStep(const QWidget& body) {
    if (!body.isVisible()) return; // it may not be styled yet
    const int missing = body.minimumSizeHint().width() - body.parentWidget()->width();
    if (missing <= 0) return;
    const int needed = std::min(widestColumn, width() + missing);
    // And never less again, lest the seam jump back and forth.
    if (needed > minimumWidth()) setMinimumWidth(needed);
}

StepCard* LeftColumn::addStep(const QString& title, const QString& objectName, QWidget* body) {
    auto* card = new StepCard(title, body);
    card->setObjectName(objectName);
    cards_.push_back(card);
    auto* settled = new QTimer(card); // what has just changed may not be laid out or styled yet
    settled->setSingleShot(true);
    settled->setInterval(50);
    connect(settled, &QTimer::timeout, this, [this, body] { fitStep(*body); });
    connect(card, &StepCard::bodyChanged, settled, qOverload<>(&QTimer::start));
    steps_->addWidget(card);
    connect(card, &StepCard::opened, this, [this, card] {
        for (StepCard* other : cards_)
            if (other != card) other->setOpen(false);
    });
    return card;
}

} // namespace yarngap::app
