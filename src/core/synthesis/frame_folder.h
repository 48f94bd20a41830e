// Finished frames kept on disk between sessions.
#pragma once

#include "core/cache_folder.h"
#include "core/image/image.h"

#include <memory>
#include <optional>
#include <string>

namespace yarngap {

/// An output frame.
struct MadeFrame {
    ImagePtr image;
    std::optional<double> doubt; ///< of a flow frame, 0 to 1
    double edgeScale = 1;        ///< scale that hides edges no source frame has; see scaleThatHides
};

/// A frame as its file holds it.
struct KeyedFrame {
    std::string key;
    MadeFrame frame;
};

/// Writes `frame`, its samples as they are; docs/formats.md describes the file. Throws Error (disk full …),
/// and then leaves nothing.
void writeFrame(const std::filesystem::path& file, const MadeFrame& frame, const std::string& key);
/// Throws Error when the file is not there, cut off, makes no sense, or does not hold what was written.
KeyedFrame readFrame(const std::filesystem::path& file);

/// Frames found by key (see FrameMaker::contentKey), within a limited size (see CacheFolder). A file that
/// cannot be read is taken away; it will be made again. Thread-safe.
///
///     FrameFolder folder(cacheFolderOfUser("frames"));
///     folder.keep(maker.contentKey(row), made);
///     const auto again = folder.find(maker.contentKey(row));
class FrameFolder {
  public:
    static constexpr std::uintmax_t defaultBytes = std::uintmax_t{4} << 30;

    explicit FrameFolder(std::filesystem::path folder, std::uintmax_t byteLimit = defaultBytes)
        : files_(std::move(folder), ".frame", byteLimit) {}

    [[nodiscard]] std::optional<MadeFrame> find(const std::string& key) const;
    /// Whether there is a file; that it can be read is not known yet.
    [[nodiscard]] bool has(const std::string& key) const;
    /// Queues a frame for writing.
    void keep(const std::string& key, const MadeFrame& frame);
    void flush() { files_.flush(); }
    /// The folder itself, for its limit and what it holds.
    [[nodiscard]] CacheFolder& files() { return files_; }

  private:
    CacheFolder files_;
};

/// Those that programs of this user keep for each other; null where there is no place for them.
std::shared_ptr<FrameFolder> frameFolderOfUser(std::uintmax_t byteLimit = FrameFolder::defaultBytes);

} // namespace yarngap
