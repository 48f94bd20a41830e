// From an edit's list to shots.
#pragma once

#include "core/edit/edit_list.h"
#include "core/inspection/known_media.h"
#include "core/shot/shot.h"

#include <filesystem>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// Shots of an edit, and what could not be done, a sentence each that names the event.
struct OpenedEdit {
    std::vector<Shot> shots;
    std::vector<std::string> problems;
};

/// Files under some folders, found by name.
class MediaFinder {
  public:
    static constexpr std::size_t mostFiles = 200'000;

    /// Looks through the folders and all below them; hidden ones and links to folders are passed over.
    explicit MediaFinder(const std::vector<std::filesystem::path>& folders, const std::stop_token& stop = {});

    /// Files that an event may mean: where the list says, else those with its file's name, else with the
    /// clip's name, with or without ending, else with the reel's.
    [[nodiscard]] std::vector<std::filesystem::path> candidates(const EditEvent& event) const;
    [[nodiscard]] bool isFull() const { return files_.size() >= mostFiles; }

  private:
    [[nodiscard]] std::vector<std::filesystem::path> named(const std::string& name, bool withEnding) const;

    std::vector<std::filesystem::path> files_;
};

/// A shot for each event whose media is found: its exact frames, its speed or time map, its place in the
/// edit. `listFile` is kept in the places. Shots of one clip get the number of their event behind its name.
/// Nothing is guessed without a word: of several files that may be meant the one with that timecode is taken,
/// or none. Throws Cancelled.
OpenedEdit openEdit(const EditList& list, const std::filesystem::path& listFile, const MediaFinder& finder,
                    const KnownMedia& known, const std::stop_token& stop = {});

/// The same edit come again: its shots with the treatment that those of `before` have, where an event of
/// the same media begins nearest. What changed is told, a sentence each.
OpenedEdit withTreatment(OpenedEdit now, const std::vector<Shot>& before);

} // namespace yarngap
