// The projects opened or saved last.
#pragma once

#include <QStringList>

namespace yarngap::app {

/// Newest first, at most 8; those that are gone are left out.
[[nodiscard]] QStringList recentProjects();
/// Puts `file` first; nothing for an empty name.
void noteRecentProject(const QString& file);

} // namespace yarngap::app
