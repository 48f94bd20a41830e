#include "app/document/recent_projects.h"

#include <QFileInfo>
#include <QSettings>

namespace yarngap::app {

namespace {

constexpr qsizetype most = 8;

QString key() {
    return QStringLiteral("recentProjects");
}

} // namespace

QStringList recentProjects() {
    QStringList there;
    for (const QString& file : QSettings().value(key()).toStringList())
        if (QFileInfo::exists(file)) there.append(file);
    return there;
}

void noteRecentProject(const QString& file) {
    if (file.isEmpty()) return;
    const QString absolute = QFileInfo(file).absoluteFilePath();
    QStringList files = recentProjects();
    if (!files.isEmpty() && files.front() == absolute) return;
    files.removeAll(absolute);
    files.prepend(absolute);
    QSettings().setValue(key(), files.mid(0, most));
}

} // namespace yarngap::app
