#include "app/steps/finish_row.h"

#include "app/look/theme.h"
#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QHBoxLayout>
#include <QHash>
#include <QPainter>
#include <QPolygonF>

#include <algorithm>

namespace yarngap::app {

FoldHeader::FoldHeader(const QString& title, QWidget* parent)
    : QAbstractButton(parent) {
    setText(title);
    setCheckable(true);
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName(title);
    setFixedHeight(24);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void FoldHeader::setOutcome(const QString& outcome) {
    outcome_ = outcome;
    setToolTip(outcome);
    setAccessibleDescription(outcome);
    update();
}

void FoldHeader::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(shades().faint);
    const QPointF middle(5, height() / 2.0);
    constexpr double r = 3.5;
    if (isChecked())
        p.drawPolygon(
            QPolygonF({middle + QPointF(-r, -r / 2), middle + QPointF(r, -r / 2), middle + QPointF(0, r)}));
    else
        p.drawPolygon(
            QPolygonF({middle + QPointF(-r / 2, -r), middle + QPointF(r, 0), middle + QPointF(-r / 2, r)}));
    const QRect inner = rect().adjusted(15, 0, 0, 0);
    p.setFont(textFont(13, outcome_.isEmpty() ? QFont::Normal : QFont::DemiBold));
    p.setPen(shades().ink);
    p.drawText(inner, Qt::AlignVCenter | Qt::AlignLeft, text());
    const int used = p.fontMetrics().horizontalAdvance(text()) + 10;
    p.setFont(textFont(12));
    p.setPen(shades().faint);
    const QRect place = inner.adjusted(used, 0, 0, 0);
    p.drawText(place, Qt::AlignVCenter | Qt::AlignRight,
               p.fontMetrics().elidedText(outcome_, Qt::ElideRight, place.width()));
    if (!hasFocus()) return;
    p.setPen(QPen(shades().indigo, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 1.5, -0.5, -1.5), 3, 3);
}

FinishRow::FinishRow(Workspace& workspace, const QString& title, const char* objectName)
    : workspace_(workspace)
    , header_(new FoldHeader(title, this))
    , body_(new QWidget)
    , layout_(new QVBoxLayout(body_))
    , problem_(problemLabel()) {
    setObjectName(QString::fromLatin1(objectName));
    header_->setObjectName(QString::fromLatin1(objectName) + QStringLiteral("Header"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(header_);
    layout->addWidget(body_);
    layout_->setContentsMargins(15, 2, 0, 8);
    layout_->setSpacing(6);
    layout_->addWidget(problem_);
    body_->hide();
    connect(header_, &QAbstractButton::toggled, this, [this](bool on) {
        body_->setVisible(on);
        if (on) Q_EMIT opened();
    });
}

void FinishRow::setOpen(bool on) {
    header_->setChecked(on);
}

void FinishRow::refresh(const Finish& finish, const MediaFacts& facts) {
    tell({});
    header_->setOutcome(show(finish, facts));
}

const Finish* FinishRow::finish() const {
    const Shot* shot = workspace_.document.current();
    return shot ? &shot->finish : nullptr;
}

void FinishRow::edit(const QString& what, const std::function<void(Finish&)>& change, int kind) {
    if (!workspace_.document.current()) return;
    Shot shot = *workspace_.document.current();
    try {
        change(shot.finish);
        validate(shot.finish);
    } catch (const Error& error) {
        return tell(QString::fromStdString(error.what()));
    }
    workspace_.document.edit(what, shot, kind);
}

NumberField* FinishRow::number(const QString& caption, const QString& accessibleName, const char* objectName,
                               const NumberForm& form, const std::function<void(Finish&, double)>& change) {
    auto* field = new NumberField(caption, accessibleName, objectName, form);
    const int kind = kindOf(objectName);
    connect(field, &NumberField::changed, this,
            [this, change, kind, name = accessibleName.toLower()](double value, bool isStepped) {
                edit(
                    name, [&](Finish& f) { change(f, value); }, isStepped ? kind : 0);
            });
    connect(field, &NumberField::problem, this, &FinishRow::tell);
    return field;
}

int FinishRow::kindOf(const char* objectName) {
    constexpr std::size_t kinds = editFinishLast - editFinishFirst + 1;
    return editFinishFirst + static_cast<int>(qHash(QLatin1String(objectName)) % kinds);
}

QPushButton* FinishRow::button(const QString& text, const char* objectName, const QString& tip,
                               bool isCheckable) {
    auto* out = new QPushButton(text);
    out->setObjectName(QString::fromLatin1(objectName));
    out->setToolTip(tip);
    out->setCheckable(isCheckable);
    out->setStyleSheet(QStringLiteral("QPushButton { padding: 4px 6px; }"));
    out->setProperty("role", "choice");
    return out;
}

ChoiceBox* FinishRow::choice(const char* objectName, const QString& accessibleName,
                             const QStringList& items) {
    auto* box = new ChoiceBox;
    box->setObjectName(QString::fromLatin1(objectName));
    box->setAccessibleName(accessibleName);
    box->addItems(items);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(4);
    return box;
}

QGridLayout* FinishRow::addGrid() {
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    grid->setColumnStretch(0, 1);
    grid->setColumnStretch(1, 1);
    layout_->addLayout(grid);
    return grid;
}

QHBoxLayout* FinishRow::addLine() {
    auto* line = new QHBoxLayout;
    line->setSpacing(6);
    layout_->addLayout(line);
    return line;
}

QLabel* FinishRow::addWords() {
    auto* words = faintLabel();
    layout_->addWidget(words);
    return words;
}

void FinishRow::tell(const QString& sentence) {
    showProblem(problem_, sentence);
}

} // namespace yarngap::app
