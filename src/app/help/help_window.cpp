#include "app/help/help_window.h"

#include <QKeyEvent>

namespace yarngap::app {

HelpWindow::HelpWindow(KeyTable& keys, QWidget* parent)
    : QTabWidget(parent)
    , keys_(new KeysPage(keys))
    , guide_(new GuidePage)
    , report_(new ReportPage) {
    setWindowFlags(Qt::Window);
    setObjectName(QStringLiteral("helpWindow"));
    setWindowTitle(tr("Help"));
    setDocumentMode(true);
    setAutoFillBackground(true);
    resize(960, 680);
    addTab(keys_, tr("Keys"));
    addTab(guide_, tr("Guide"));
    addTab(report_, tr("Report a problem"));
    connect(this, &QTabWidget::currentChanged, this, [this] {
        if (currentWidget() == report_) Q_EMIT reportAsked();
    });
}

void HelpWindow::bringUp(QWidget* page) {
    setCurrentWidget(page);
    show();
    raise();
    activateWindow();
}

void HelpWindow::showKeys() {
    bringUp(keys_);
    keys_->focusSearch();
}

void HelpWindow::showGuide(const QString& heading) {
    bringUp(guide_);
    guide_->goTo(heading);
    guide_->focusSearch();
}

void HelpWindow::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) return hide();
    if (event->key() == Qt::Key_F1)
        return event->modifiers() == Qt::ShiftModifier ? setCurrentWidget(guide_) : showKeys();
    QTabWidget::keyPressEvent(event);
}

} // namespace yarngap::app
