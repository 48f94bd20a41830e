#include "app/stage/source_sheet_bar.h"

#include "app/help/key_table.h"
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
    const char* command; ///< of the key table
    const char* name;
    const char* tip;
};

constexpr std::array<Choice, 6> choices{{
    {CleanupKind::keep, QT_TRANSLATE_NOOP("yarngap::app", "Keep"), "sheetKeep", "sheetKeepButton",
     QT_TRANSLATE_NOOP("yarngap::app", "The frame stays as it is, whatever was found about it")},
    {CleanupKind::passOver, QT_TRANSLATE_NOOP("yarngap::app", "Pass over"), "sheetPassOver",
     "sheetPassOverButton",
     QT_TRANSLATE_NOOP("yarngap::app", "It counts as a repeat: motion goes on evenly past it")},
    {CleanupKind::takeOut, QT_TRANSLATE_NOOP("yarngap::app", "Take out"), "sheetTakeOut",
     "sheetTakeOutButton", QT_TRANSLATE_NOOP("yarngap::app", "The frame is removed and later ones close up")},
    {CleanupKind::rebuild, QT_TRANSLATE_NOOP("yarngap::app", "Rebuild"), "sheetRebuild", "sheetRebuildButton",
     QT_TRANSLATE_NOOP("yarngap::app", "Makes the frame again from the kept frames around it")},
    {CleanupKind::restore, QT_TRANSLATE_NOOP("yarngap::app", "Restore"), "sheetRestore", "sheetRestoreButton",
     QT_TRANSLATE_NOOP("yarngap::app", "Makes only the damaged places again. Press Enter to draw them")},
    {CleanupKind::putIn, QT_TRANSLATE_NOOP("yarngap::app", "Put in"), "sheetPutIn", "sheetPutInButton",
     QT_TRANSLATE_NOOP("yarngap::app", "A new frame is made and added after it; again adds one more")},
}};

} // namespace

SourceSheetBar::SourceSheetBar(QWidget* parent)
    : QWidget(parent)
    , phases_(new PhaseField)
    , held_(new QLabel) {
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
        auto* button = add(tr(choice.text), QString::fromLatin1(choice.name), tr(choice.tip));
        button->setAccessibleName(tr(choice.text));
        named_.push_back({button, tr(choice.text), QString::fromLatin1(choice.command)});
        connect(button, &QToolButton::clicked, this,
                [this, kind = choice.kind] { Q_EMIT decisionAsked(kind); });
    }
    row->addGap();
    auto* undecide = add(tr("Take back  ⌫"), QStringLiteral("sheetUndecideButton"),
                         tr("Take back what is decided about these frames"));
    connect(undecide, &QToolButton::clicked, this, &SourceSheetBar::undecideAsked);
    auto* next = add(tr("Next found"), QStringLiteral("sheetNextFoundButton"),
                     tr("To the next frame that something was found about and nothing is decided"));
    named_.push_back({next, tr("Next found"), QStringLiteral("sheetFoundOn")});
    connect(next, &QToolButton::clicked, this, [this] { Q_EMIT foundAsked(1); });
    auto* leave = add(tr("Done  Esc"), QStringLiteral("sheetDoneButton"), tr("Back to the picture"));
    connect(leave, &QToolButton::clicked, this, &SourceSheetBar::leaveAsked);
    layout->addLayout(row);
    layout->addWidget(phases_);
    connect(phases_, &PhaseField::phasesSet, this, &SourceSheetBar::phasesSet);
    connect(phases_, &PhaseField::left, this, &SourceSheetBar::phasesLeft);
    held_->setAlignment(Qt::AlignCenter);
    held_->setWordWrap(true);
    held_->setStyleSheet(QStringLiteral("color: #E4E2DD; font-size: 12px;"));
    layout->addWidget(held_);
}

void SourceSheetBar::nameKeys(const KeyTable& keys) {
    const auto keyOf = [&](const QString& command) {
        const KeyCommand* found = keys.named(command);
        return found ? found->keys.toString(QKeySequence::NativeText) : QString();
    };
    for (const Named& one : named_) {
        const QString key = keyOf(one.command);
        one.button->setText(key.isEmpty() ? one.text : tr("%1  %2").arg(one.text, key));
    }
    QStringList held;
    const auto hold = [&](const char* command, const QString& sentence) {
        const QString key = keyOf(QString::fromLatin1(command));
        if (!key.isEmpty()) held += sentence.arg(key);
    };
    hold("sheetBefore", tr("“%1” for the frame before"));
    hold("sheetAfter", tr("“%1” for the frame after"));
    hold("sheetMade", tr("“%1” for the frame as it is made"));
    QStringList sentences{tr("Shift selects a run"),
                          tr("Enter shows the frame large, to draw damaged places")};
    if (!held.isEmpty()) sentences.prepend(tr("Hold %1").arg(held.join(QStringLiteral(", "))));
    held_->setText(sentences.join(QStringLiteral(" · ")));
}

void SourceSheetBar::setTimed(const CleanupDecision* decision) {
    phases_->setDecision(decision);
}

} // namespace yarngap::app
