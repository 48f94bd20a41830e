// Results kept on disk between sessions.
#pragma once

#include <atomic>
#include <condition_variable>
#include <cstdint>
#include <deque>
#include <filesystem>
#include <functional>
#include <mutex>
#include <string>
#include <thread>

namespace yarngap {

/// A folder of files found by key, of a limited size; what was used longest ago goes first.
///
/// Thread-safe, and safe for several programs at once: the writers handed in let files appear whole under
/// their names (see NewFile), and a file that another program takes away is one that is not there. What a
/// killed program left half-written goes when the folder is next opened. Writing happens on a thread of its
/// own; when it fails (disk full, folder gone), that is told by trouble() and the work goes on without.
///
///     CacheFolder folder(cacheFolderOfUser("vectors"), ".vectors", bytes);
///     folder.keep(key, size, [=](const auto& file) { writeKeptVectors(file, *vectors, key); });
///     folder.flush();
///     readVectors(folder.fileOf(key));
class CacheFolder {
  public:
    using Write = std::function<void(const std::filesystem::path& file)>;

    /// `extension` with its dot. The folder is made when the first file is kept. Files that end in `former`,
    /// as earlier versions kept them, are taken away.
    CacheFolder(std::filesystem::path folder, std::string extension, std::uintmax_t byteLimit,
                std::string former = {});
    /// Waits for the file being written; what is still queued is not written.
    ~CacheFolder();
    CacheFolder(const CacheFolder&) = delete;
    CacheFolder& operator=(const CacheFolder&) = delete;
    CacheFolder(CacheFolder&&) = delete;
    CacheFolder& operator=(CacheFolder&&) = delete;

    /// Where what belongs to `key` lies, if it is there. Two keys may share a name, so a file holds its key.
    [[nodiscard]] std::filesystem::path fileOf(const std::string& key) const;
    /// Counts a file as used now.
    static void touch(const std::filesystem::path& file);
    /// Queues a file for writing. `write` runs on another thread and may throw; `bytes` is the memory it
    /// holds meanwhile. While four wait, or 160 MB of them, further ones are not kept.
    void keep(const std::string& key, std::size_t bytes, Write write);
    /// Waits until nothing is queued.
    void flush();
    /// Why the last file could not be kept; empty when all is well.
    [[nodiscard]] std::string trouble() const;
    /// Bytes of all files.
    [[nodiscard]] std::uintmax_t bytes() const;
    /// Takes effect with the next file kept. 0 keeps nothing.
    void setByteLimit(std::uintmax_t byteLimit) { byteLimit_ = byteLimit; }
    [[nodiscard]] std::uintmax_t byteLimit() const { return byteLimit_; }
    /// Takes all files away, on the thread that writes.
    void clear();
    [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }

  private:
    struct Waiting {
        std::string key;
        std::size_t bytes = 0;
        Write write;
    };
    void loop(const std::stop_token& stop);
    void makeRoom(std::uintmax_t limit) const;
    void removeFormer() const;

    std::filesystem::path folder_;
    std::string extension_;
    std::string former_; ///< empty: there was none
    std::atomic<std::uintmax_t> byteLimit_;
    mutable std::mutex mutex_;
    std::condition_variable_any changed_;
    std::deque<Waiting> queue_;
    bool writing_ = false;
    std::string trouble_;
    std::jthread thread_; // last: ends before what it uses goes
};

/// yarngap/`name` in the user's cache folder ($XDG_CACHE_HOME, else ~/.cache); empty when there is neither.
std::filesystem::path cacheFolderOfUser(const std::string& name);

} // namespace yarngap
