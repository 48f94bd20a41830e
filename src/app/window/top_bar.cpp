#include "app/window/top_bar.h"

#include "app/look/theme.h"
#include "app/window/left_column.h"

#include <QHBoxLayout>

#include <cmath>

namespace yarngap::app {

TopBar::TopBar(Document& document, const RenderController& render, QWidget* parent)
    : QWidget(parent)
    , document_(document)
    , render_(render)
    , fold_(new QToolButton)
    , projectName_(new QLabel)
    , shotName_(new QLabel)
    , renderBar_(new QProgressBar)
    , renderText_(new QLabel)
    , undo_(new QPushButton(tr("Undo")))
    , redo_(new QPushButton(tr("Redo")))
    , open_(new QPushButton(tr("Open…")))
    , save_(new QPushButton(tr("Save")))
    , settings_(new QPushButton(tr("Settings")))
    , help_(new QPushButton(tr("Help"))) {
    setFixedHeight(40);
    prepareFold();
    projectName_->setFont(textFont(14, QFont::DemiBold));
    projectName_->setObjectName(QStringLiteral("projectName"));
    shotName_->setProperty("role", "faint");
    shotName_->setObjectName(QStringLiteral("shotName"));
    renderBar_->setFixedWidth(110);
    renderBar_->setTextVisible(false);
    renderBar_->setAccessibleName(tr("Render progress"));
    renderText_->setProperty("role", "faint");
    renderText_->setObjectName(QStringLiteral("renderText"));
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 0, 12, 0);
    row->setSpacing(4);
    row->addWidget(fold_);
    row->addSpacing(4);
    row->addWidget(projectName_);
    row->addSpacing(24);
    row->addWidget(shotName_);
    row->addStretch();
    row->addWidget(renderBar_);
    row->addSpacing(8);
    row->addWidget(renderText_);
    row->addSpacing(16);
    for (QPushButton* button : {undo_, redo_, open_, save_, settings_, help_}) {
        button->setProperty("role", "flat");
        button->setFocusPolicy(Qt::TabFocus);
        row->addWidget(button);
    }
    prepareButtons();
}

void TopBar::prepareFold() {
    fold_->setObjectName(QStringLiteral("foldColumnButton"));
    fold_->setCheckable(true);
    fold_->setChecked(true);
    fold_->setIcon(columnIcon());
    fold_->setIconSize({16, 16});
    fold_->setProperty("role", "icon");
    fold_->setFixedSize(24, 24);
    fold_->setFocusPolicy(Qt::TabFocus);
    fold_->setAccessibleName(tr("Show shots and steps"));
    fold_->setToolTip(tr("Show or hide shots and steps (Ctrl+L)"));
    fold_->setShortcut(QKeySequence(QStringLiteral("Ctrl+L")));
    connect(fold_, &QToolButton::toggled, this, &TopBar::columnAsked);
}

void TopBar::renewIcons() {
    fold_->setIcon(columnIcon());
}

void TopBar::prepareButtons() {
    open_->setObjectName(QStringLiteral("openButton"));
    open_->setToolTip(
        tr("Open video, pictures, a project (Ctrl+O) or a recent project; you can also drop files"));
    save_->setToolTip(tr("Save the project (Ctrl+S)"));
    save_->setObjectName(QStringLiteral("saveButton"));
    undo_->setObjectName(QStringLiteral("undoButton"));
    redo_->setObjectName(QStringLiteral("redoButton"));
    settings_->setObjectName(QStringLiteral("settingsButton"));
    settings_->setToolTip(tr("Memory, disk and sound"));
    help_->setObjectName(QStringLiteral("helpButton"));
    help_->setToolTip(tr("All keys (F1), the guide (Shift+F1), and a report when something goes wrong"));
    connect(help_, &QPushButton::clicked, this, &TopBar::helpAsked);
    connect(settings_, &QPushButton::clicked, this, &TopBar::settingsAsked);
    connect(open_, &QPushButton::clicked, this, &TopBar::openAsked);
    connect(save_, &QPushButton::clicked, this, &TopBar::saveAsked);
    QUndoStack& undo = document_.undoStack();
    connect(undo_, &QPushButton::clicked, &undo, &QUndoStack::undo);
    connect(redo_, &QPushButton::clicked, &undo, &QUndoStack::redo);
}

void TopBar::refresh() {
    const Shot* shot = document_.current();
    const QString file = document_.file();
    projectName_->setText(file.isEmpty() ? (shot ? tr("New project") : tr("Yarn Gap"))
                                         : QString::fromStdString(document_.project().name));
    if (QWidget* whole = window(); whole != this) { // for the list of windows, and who hears it read out
        const bool isNamed = shot || !file.isEmpty();
        whole->setWindowTitle(isNamed ? tr("%1[*] – Yarn Gap").arg(projectName_->text()) : tr("Yarn Gap"));
        whole->setWindowModified(shot && document_.hasUnsavedChanges());
    }
    const QString state = !shot                           ? QString()
                          : file.isEmpty()                ? tr("not saved yet")
                          : document_.hasUnsavedChanges() ? tr("unsaved changes")
                                                          : tr("saved");
    shotName_->setText(shot ? QString::fromStdString(shot->name) + QStringLiteral(" · ") + state : QString());
    save_->setEnabled(shot != nullptr);
    const QUndoStack& undo = document_.undoStack();
    undo_->setEnabled(undo.canUndo());
    redo_->setEnabled(undo.canRedo());
    undo_->setToolTip(undo.canUndo() ? tr("Undo %1 (Ctrl+Z)").arg(undo.undoText()) : tr("Nothing to undo"));
    redo_->setToolTip(undo.canRedo() ? tr("Redo %1 (Ctrl+Shift+Z)").arg(undo.redoText())
                                     : tr("Nothing to redo"));
    refreshRender();
}

void TopBar::refreshRender() {
    renderBar_->setVisible(render_.running());
    const RenderProgress& p = render_.progress();
    QString text;
    if (render_.running()) {
        const auto percent = p.total > 0 ? p.done * 100 / p.total : 0;
        renderBar_->setValue(static_cast<int>(percent));
        text = tr("Rendering %1 %2 %").arg(render_.shotName()).arg(percent);
        if (p.secondsLeft >= 90)
            text += tr(" · %1 min left").arg(std::lround(p.secondsLeft / 60));
        else if (p.secondsLeft >= 0)
            text += tr(" · %1 s left").arg(std::lround(p.secondsLeft));
    } else if (render_.failed()) {
        text = tr("Render failed; see Render");
    } else if (render_.report()) {
        text = tr("%1 rendered").arg(render_.shotName());
    }
    renderText_->setText(text);
}

} // namespace yarngap::app
