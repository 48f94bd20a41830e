// Vectors kept on disk between sessions.
#pragma once

#include "core/cache_folder.h"
#include "core/motion/vectors.h"

#include <memory>
#include <string>

namespace yarngap {

/// Vector files found by key, within a limited size (see CacheFolder). A file that cannot be read is taken
/// away; it will be made again.
///
///     VectorFolder folder(cacheFolderOfUser("vectors"));
///     folder.keep(key, vectors);
///     const VectorsPtr again = folder.find(key, 1920, 1080);
class VectorFolder {
  public:
    static constexpr std::uintmax_t defaultBytes = std::uintmax_t{4} << 30;

    explicit VectorFolder(std::filesystem::path folder, std::uintmax_t byteLimit = defaultBytes)
        : files_(std::move(folder), ".vectors", byteLimit, ".exr") {}

    /// The vectors of `key`, for pictures of this size, or null.
    [[nodiscard]] VectorsPtr find(const std::string& key, int width, int height) const;
    /// Queues vectors for writing.
    void keep(const std::string& key, VectorsPtr vectors);
    void flush() { files_.flush(); }
    [[nodiscard]] std::string trouble() const { return files_.trouble(); }
    [[nodiscard]] std::uintmax_t bytes() const { return files_.bytes(); }
    /// The folder itself, for its limit.
    [[nodiscard]] CacheFolder& files() { return files_; }

  private:
    CacheFolder files_;
};

/// Those that programs of this user keep for each other; null where there is no place for them.
std::shared_ptr<VectorFolder> vectorFolderOfUser(std::uintmax_t byteLimit = VectorFolder::defaultBytes);

} // namespace yarngap
