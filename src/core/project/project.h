// A project: the shots an editor works on and what is to become of each.
#pragma once

#include "core/error.h"
#include "core/files/file_edition.h"
#include "core/shot/shot.h"

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

struct Project {
    std::string name;
    std::vector<Shot> shots;
    std::string unknownFields; ///< JSON object of project fields that this version does not know

    friend bool operator==(const Project&, const Project&) = default;
};

/// The version that is written; earlier ones are read.
inline constexpr int projectVersion = 2;

/// Reads the text of a `.yarngap` file whose media paths are relative to `folder`; messages begin with
/// `where`. The content is not trusted: anything out of range or of the wrong kind is refused with the place.
/// Throws Error.
Project parseProject(std::string_view content, const std::filesystem::path& folder, const std::string& where);
/// What parseProject() reads, with media paths relative to `folder` where possible.
std::string projectText(const Project& project, const std::filesystem::path& folder);

/// parseProject() of a file of at most 64 MB. Throws Error.
Project loadProject(const std::filesystem::path& file);
/// The same, with what saveOver() needs.
struct LoadedProject {
    Project project;
    std::optional<FileEdition> edition;
};
LoadedProject loadEdition(const std::filesystem::path& file);

/// Writes the file as a whole or not at all (see NewFile), media paths relative to it where possible. Throws
/// Error, also when the file is the media of one of the shots.
void saveProject(const Project& project, const std::filesystem::path& file);

/// Thrown when a project file is not the one that was opened.
class ChangedMeanwhile : public Error {
  public:
    using Error::Error;
};
/// saveProject() onto the file that was last read or written as `known`; what it is from then on. Throws
/// ChangedMeanwhile when another program has written to it since, or when it is there and `known` is nothing.
FileEdition saveOver(const Project& project, const std::filesystem::path& file,
                     const std::optional<FileEdition>& known);

} // namespace yarngap
