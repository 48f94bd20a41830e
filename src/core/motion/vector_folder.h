// Vectors kept on disk between sessions.
#pragma once

#include "core/motion/vectors.h"

#include <condition_variable>
#include <cstdint>
#include <deque>
#include <filesystem>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <utility>

namespace yarngap {

/// A folder of vector files, found by key, of a limited size; what was used longest ago goes first.
///
/// Thread-safe, and safe for several programs at once: files appear whole under their names (see
/// writeVectors), a file that another program takes away is one that is not there, and a file that cannot be
/// read or holds another key is taken away. What a killed program left half-written goes when the folder is
/// next opened. Writing happens on a thread of its own; when it fails (disk full, folder gone), that is told
/// by trouble() and the work goes on without.
///
///     VectorFolder folder(defaultVectorFolder());
///     folder.keep(key, vectors);
///     const VectorsPtr again = folder.find(key);
class VectorFolder {
  public:
    static constexpr std::uintmax_t defaultBytes = std::uintmax_t{4} << 30;

    /// The folder is made when the first vectors are kept.
    explicit VectorFolder(std::filesystem::path folder, std::uintmax_t byteLimit = defaultBytes);
    /// Waits for the file being written; what is still queued is not written.
    ~VectorFolder();
    VectorFolder(const VectorFolder&) = delete;
    VectorFolder& operator=(const VectorFolder&) = delete;
    VectorFolder(VectorFolder&&) = delete;
    VectorFolder& operator=(VectorFolder&&) = delete;

    /// The vectors of `key`, or null.
    [[nodiscard]] VectorsPtr find(const std::string& key) const;
    /// Queues vectors for writing. While four wait, or 160 MB of them, further ones are not kept.
    void keep(const std::string& key, VectorsPtr vectors);
    /// Waits until nothing is queued.
    void flush();
    /// Why vectors could not be kept, last time; empty when all is well.
    [[nodiscard]] std::string trouble() const;
    /// Bytes of all vector files.
    [[nodiscard]] std::uintmax_t bytes() const;
    [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }

  private:
    void loop(const std::stop_token& stop);
    [[nodiscard]] std::filesystem::path fileOf(const std::string& key) const;
    void removeLeftovers() const;
    void makeRoom() const;

    std::filesystem::path folder_;
    std::uintmax_t byteLimit_;
    mutable std::mutex mutex_;
    std::condition_variable_any changed_;
    std::deque<std::pair<std::string, VectorsPtr>> queue_;
    bool writing_ = false;
    std::string trouble_;
    std::jthread thread_; // last: ends before what it uses goes
};

/// yarngap/vectors in the user's cache folder ($XDG_CACHE_HOME, else ~/.cache); empty when there is neither.
std::filesystem::path defaultVectorFolder();

} // namespace yarngap
