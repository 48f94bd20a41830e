#include "app/window/window_layout.h"

#include <QSettings>

namespace yarngap::app {

namespace {

QString keyOf(const QString& name) {
    return QStringLiteral("window/") + name;
}

} // namespace

WindowLayout::WindowLayout(QWidget& window, QObject* parent)
    : QObject(parent)
    , window_(window) {}

bool WindowLayout::follow(QSplitter& seam) {
    const QString key = keyOf(seam.objectName());
    const QByteArray kept = QSettings().value(key).toByteArray();
    connect(&seam, &QSplitter::splitterMoved, this,
            [&seam, key] { QSettings().setValue(key, seam.saveState()); });
    return !kept.isEmpty() && seam.restoreState(kept);
}

bool WindowLayout::wasShown(const char* panel, bool usually) {
    return QSettings().value(keyOf(QLatin1String(panel)), usually).toBool();
}

void WindowLayout::keepShown(const char* panel, bool shown) {
    QSettings().setValue(keyOf(QLatin1String(panel)), shown);
}

void WindowLayout::restorePlace() {
    window_.restoreGeometry(QSettings().value(keyOf(QStringLiteral("place"))).toByteArray());
}

void WindowLayout::keepPlace() const {
    QSettings().setValue(keyOf(QStringLiteral("place")), window_.saveGeometry());
}

} // namespace yarngap::app
