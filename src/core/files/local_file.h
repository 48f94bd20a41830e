// Reading of local files.
#pragma once

#include "core/error.h"
#include "core/files/file_edition.h"
#include "core/files/reading_thread.h"

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <stop_token>
#include <string>

namespace yarngap {

/// Thrown when a file cannot be read any more, or is not what it was: nothing can stand in for what it held.
class SourceLost : public Error {
  public:
    using Error::Error;
};

/// An ordinary local file, open for reading. What the disk must be asked for is read on a thread of its own,
/// so that it can be given up; what lies in memory is copied at once. Not thread-safe.
///
///     LocalFile file(path, std::make_shared<ReadingThread>());
///     const std::size_t got = file.read(0, buffer, stop);
class LocalFile {
  public:
    /// Throws Error in words for the editor when there is no such file, or it is a folder, a pipe or a
    /// device, or may not be read; Cancelled when stopped. Never waits for what a pipe or device may bring.
    LocalFile(std::filesystem::path path, std::shared_ptr<ReadingThread> thread,
              const std::stop_token& stop = {});

    /// Fills `to` with the bytes from `at` on; fewer only at the end of the file as it was opened. Throws
    /// SourceLost when the disk reports an error or the file got shorter, Cancelled when stopped.
    std::size_t read(std::int64_t at, std::span<std::byte> to, const std::stop_token& stop = {});

    [[nodiscard]] const std::filesystem::path& path() const { return path_; }
    [[nodiscard]] std::int64_t bytes() const { return edition_.bytes; }
    /// As it was when opened.
    [[nodiscard]] const FileEdition& edition() const { return edition_; }
    /// Whether somebody wrote to the file since it was opened.
    [[nodiscard]] bool hasChanged() const;

  private:
    /// Keeps in mind where a read of `got` bytes ended. Throws SourceLost when the file got shorter.
    std::size_t noted(std::int64_t at, std::size_t got, std::size_t wanted);

    struct Descriptor;
    struct Block;
    std::filesystem::path path_;
    std::shared_ptr<ReadingThread> thread_;
    std::shared_ptr<const Descriptor> descriptor_;
    std::shared_ptr<Block> block_; ///< what is being read; the thread's own when a read was given up
    FileEdition edition_;
    std::int64_t next_ = -1; ///< where the last read ended
};

/// The whole of a small file, of at most `most` bytes. `kind` names it in messages ("project", "time map").
/// Throws Error or Cancelled.
std::string contentOf(const std::filesystem::path& file, std::int64_t most, const std::string& kind,
                      const std::stop_token& stop = {});

/// "X changed on disk since it was opened. Open it again."
SourceLost changedOnDisk(const std::filesystem::path& file);

} // namespace yarngap
