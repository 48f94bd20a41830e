// A file that one program at a time works on.
#pragma once

#include <filesystem>

namespace yarngap {

/// Holds an advisory lock (flock) on a file for as long as it lives; waits for whoever holds it. A file that
/// is not there, or on a disk that knows no locks, is not locked.
class LockedFile {
  public:
    explicit LockedFile(const std::filesystem::path& file);
    ~LockedFile();
    LockedFile(const LockedFile&) = delete;
    LockedFile& operator=(const LockedFile&) = delete;
    LockedFile(LockedFile&&) = delete;
    LockedFile& operator=(LockedFile&&) = delete;

  private:
    int descriptor_ = -1;
};

} // namespace yarngap
