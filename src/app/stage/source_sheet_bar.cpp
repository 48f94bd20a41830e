#include "app/stage/source_sheet_bar.h"

#include "app/look/wrapping_row.h"
#include "app/stage/phase_field.h"
#include "app/stage/stage_tools.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

#include <array>

namespace yarngap::app {

namespace {

struct Choice {
    CleanupKind kind;
    const char* text;
    const char* key;
    const char* name;
    const char* tip;
};

constexpr std::array<Choice, 6> choices{{
    {CleanupKind::keep, QT_TRANSLATE_NOOP("yarngap::app", "Keep"), "A", "sheetKeepButton",
     QT_TRANSLATE_NOOP("yarngap::app", "The frame stays as it is, whatever was found about it")},
    {CleanupKind::passOver, QT_TRANSLATE_NOOP("yarngap::app", "Pass over"), "P", "sheetPassOverButton",
     QT_TRANSLATE_NOOP("yarngap::app", "It counts as a repeat: motion goes on evenly past it")},
    {CleanupKind::takeOut, QT_TRANSLATE_NOOP("yarngap::app", "Take out"), "X", "sheetTakeOutButton",
     QT_TRANSLATE_NOOP("yarngap::app", "It is gone, and later frames close up")},
    {CleanupKind::rebuild, QT_TRANSLATE_NOOP("yarngap::app", "Rebuild"), "R", "sheetRebuildButton",
     QT_TRANSLATE_NOOP("yarngap::app", "Its picture is made again from the kept frames around it")},
    {CleanupKind::restore, QT_TRANSLATE_NOOP("yarngap::app", "Restore"), "E", "sheetRestoreButton",
     QT_TRANSLATE_NOOP("yarngap::app", "Only the damaged places are made again. Press Enter to draw them")},
    {CleanupKind::putIn, QT_TRANSLATE_NOOP("yarngap::app", "Put in"), "N", "sheetPutInButton",
     QT_TRANSLATE_NOOP("yarngap::app", "A frame is made and added after it; again adds one more")},
}};

} // namespace

SourceSheetBar::SourceSheetBar(QWidget* parent)
    : QWidget(parent)
    , phases_(new PhaseField) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(16, 0, 16, 0);
    layout->setSpacing(6);
    auto* row = new WrappingRow(WrappingRow::Rest::atTheEnds);
    row->setSpacing(8);
    const auto add = [&](const QString& text, const QString& name, const QString& tip) {
        auto* button = stageButton(text, name, tip);
        row->addWidget(button);
        return button;
    };
    for (const Choice& choice : choices) {
        auto* button = add(tr("%1  %2").arg(tr(choice.text), QString::fromLatin1(choice.key)),
                           QString::fromLatin1(choice.name), tr(choice.tip));
        button->setAccessibleName(tr(choice.text));
        connect(button, &QToolButton::clicked, this,
                [this, kind = choice.kind] { Q_EMIT decisionAsked(kind); });
    }
    auto* undecide = add(tr("Undecide  ⌫"), QStringLiteral("sheetUndecideButton"),
                         tr("Take back what is decided about these frames"));
    connect(undecide, &QToolButton::clicked, this, &SourceSheetBar::undecideAsked);
    auto* next = add(tr("Next found  ]"), QStringLiteral("sheetNextFoundButton"),
                     tr("To the next frame that something was found about and nothing is decided"));
    connect(next, &QToolButton::clicked, this, [this] { Q_EMIT foundAsked(1); });
    auto* leave = add(tr("Done  Esc"), QStringLiteral("sheetDoneButton"), tr("Back to the picture"));
    connect(leave, &QToolButton::clicked, this, &SourceSheetBar::leaveAsked);
    layout->addLayout(row);
    layout->addWidget(phases_);
    connect(phases_, &PhaseField::phasesSet, this, &SourceSheetBar::phasesSet);
    connect(phases_, &PhaseField::left, this, &SourceSheetBar::phasesLeft);
    auto* keys =
        new QLabel(tr("Hold , or . for the frame before or after, B for the frame as it is made · Shift "
                      "selects a run · Enter shows it large, to draw damaged places"));
    keys->setAlignment(Qt::AlignCenter);
    keys->setWordWrap(true);
    keys->setStyleSheet(QStringLiteral("color: #E4E2DD; font-size: 12px;"));
    layout->addWidget(keys);
}

void SourceSheetBar::setTimed(const CleanupDecision* decision) {
    phases_->setDecision(decision);
}

} // namespace yarngap::app
