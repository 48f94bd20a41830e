// Files that are read, so that none of them is written on.
#pragma once

#include "core/files/file_edition.h"

#include <filesystem>
#include <map>
#include <vector>

namespace yarngap {

/// The files that some work reads, known by device and inode: a link, a second name or another spelling of
/// one is still that file.
///
///     InputFiles inputs;
///     inputs.add(clip);
///     inputs.refuse({target});
class InputFiles {
  public:
    /// A file that is not there is none.
    void add(const std::filesystem::path& file);
    void add(const std::vector<std::filesystem::path>& files);
    /// Throws Error naming the first of `outputs` that is one of these files, and that file.
    void refuse(const std::vector<std::filesystem::path>& outputs) const;

  private:
    std::map<FilePlace, std::filesystem::path> files_;
};

/// Throws Error when two of `outputs` would be the same file.
void refuseSameOutput(const std::vector<std::filesystem::path>& outputs);

} // namespace yarngap
