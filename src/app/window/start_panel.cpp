#include "app/window/start_panel.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

StartPanel::StartPanel(QWidget* parent)
    : QWidget(parent)
    , open_(new QPushButton(tr("Open a shot…")))
    , demo_(new QPushButton(tr("See the demo shots")))
    , says_(new QLabel) {
    setObjectName(QStringLiteral("startPanel"));
    auto* title = new QLabel(tr("Slow a shot down, frame by frame"));
    auto* how = new QLabel(
        tr("Drop a video file, numbered pictures, a project or an edit's list anywhere in this window. "
           "Or open one here."));
    for (QLabel* label : {title, how, says_}) {
        label->setWordWrap(true);
        label->setAlignment(Qt::AlignCenter);
        label->setStyleSheet(QStringLiteral("color: white; background: transparent; font-size: 14px;"));
    }
    title->setStyleSheet(
        QStringLiteral("color: white; background: transparent; font-size: 20px; font-weight: 600;"));
    says_->setObjectName(QStringLiteral("startSentence"));
    open_->setObjectName(QStringLiteral("startOpenButton"));
    open_->setProperty("role", "main");
    open_->setToolTip(tr("Choose files (Ctrl+O)"));
    demo_->setObjectName(QStringLiteral("startDemoButton"));
    demo_->setToolTip(
        tr("Nine short shots of a puppet theatre, to try everything on; they are drawn on this machine"));
    auto* column = new QVBoxLayout(this);
    column->setSpacing(14);
    column->addWidget(title);
    column->addWidget(how);
    auto* row = new QHBoxLayout;
    row->setSpacing(12);
    row->addStretch();
    row->addWidget(open_);
    row->addWidget(demo_);
    row->addStretch();
    column->addLayout(row);
    column->addWidget(says_);
    connect(open_, &QPushButton::clicked, this, &StartPanel::openAsked);
    connect(demo_, &QPushButton::clicked, this, &StartPanel::demoAsked);
    parent->installEventFilter(this);
    setWaiting({});
    centre();
}

void StartPanel::setWaiting(const QString& sentence) {
    says_->setText(sentence);
    demo_->setEnabled(sentence.isEmpty());
    centre();
}

bool StartPanel::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Resize && watched == parent()) centre();
    return QWidget::eventFilter(watched, event);
}

void StartPanel::centre() {
    constexpr int widest = 460;
    constexpr int margin = 24;
    const QWidget& whole = *parentWidget();
    const int width = std::min(widest, whole.width() - margin);
    const int height = std::max(heightForWidth(width), sizeHint().height());
    setGeometry((whole.width() - width) / 2, (whole.height() - height) / 2, width, height);
}

} // namespace yarngap::app
