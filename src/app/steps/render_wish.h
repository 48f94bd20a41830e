// What the step Render asks for, and the works that come of it.
#pragma once

#include "app/document/document.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/render/render_work.h"
#endif

#include <QString>

#include <cstdint>
#include <filesystem>
#include <optional>
#include <set>
#include <string>
#include <utility>
#include <vector>

namespace yarngap::app {

enum class RenderScope { shot, reel, each, loop, edit };

struct RenderWish {
    RenderScope scope = RenderScope::shot;
    std::string pattern; ///< of names, see file_names.h
    RenderSettings settings;
    std::optional<OutputFormat> also;                          ///< a second format of the same frames
    std::optional<std::pair<std::int64_t, std::int64_t>> loop; ///< first and last output frame
    bool replace = false;                                      ///< of what is there
};

/// The works of a wish, without their names; not of RenderScope::edit. Throws Error for shots that are not
/// ready, and for names that would be the same.
std::vector<RenderWork> worksFor(const RenderWish& wish, Document& document);
/// Gives works their files, none of them one of `taken`. Looks at the disk where versions are counted. Throws
/// Error.
void giveNames(std::vector<RenderWork>& works, const RenderWish& wish, std::set<std::filesystem::path> taken);
/// Whether that needs the disk.
[[nodiscard]] bool countsVersions(const RenderWish& wish);
/// What there is already under the names of works, in a sentence; empty when nothing. Looks at the disk.
QString whatIsThere(const std::vector<RenderWork>& works);
/// The project's file, its media and mattes: what no render may write on.
std::vector<std::filesystem::path> filesToKeep(const Document& document);

} // namespace yarngap::app
