// From shots back to the edit.
#pragma once

#include "core/edit/edit_list.h"
#include "core/inspection/known_media.h"
#include "core/render/render_work.h"

#include <cstdint>
#include <filesystem>
#include <set>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

struct HandBackOptions {
    /// Folder of the rendered files, and their names; see file_names.h.
    std::string pattern = "{shot}_v{version}.mov";
    std::int64_t handles = 12; ///< output frames before and after each shot, where the media has them
    RenderSettings settings;
    bool replace = false;
    std::set<std::filesystem::path> taken = {}; ///< names that others are going to write
};

/// What has to be rendered, and the list that says where it lies: at 100 %, at the record times that the
/// shots came from.
struct HandedBack {
    std::vector<RenderWork> works; ///< one for each event, in their order
    EditList list;
    std::filesystem::path original; ///< the list that the shots came from
    std::vector<std::string> notes; ///< what differs from what was wanted, a sentence each
};

/// Prepares shots that came from an edit; others are noted and left out. The timecode of each file makes that
/// of the source at the shot's first frame come out right at 100 %. Throws Error when none came from an edit,
/// or they came from edits at several rates; Cancelled.
HandedBack handBack(const std::vector<Shot>& shots, const HandBackOptions& options, const KnownMedia& known,
                    const std::stop_token& stop = {});

/// The text of the list for a file called `target`: CMX 3600 or OpenTimelineIO. An OpenTimelineIO edit that
/// the shots came from, where it can still be read, goes back with all else that it held. Throws Error.
std::string returnedList(const HandedBack& back, const std::filesystem::path& target);

} // namespace yarngap
