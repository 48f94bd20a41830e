#include "core/cache_folder.h"

#include "core/background_priority.h"
#include "core/files/leftovers.h"
#include "core/files/write_failure.h"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cstdlib>
#include <utility>
#include <vector>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t longestQueue = 4;
constexpr std::size_t largestQueue = std::size_t{160} << 20; // bytes

/// FNV-1a. A clash does no harm, since the file holds the whole key.
std::uint64_t hashOf(const std::string& text) {
    std::uint64_t hash = 14695981039346656037ULL;
    for (const char c : text)
        hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
    return hash;
}

} // namespace

CacheFolder::CacheFolder(fs::path folder, std::string extension, std::uintmax_t byteLimit, std::string former)
    : folder_(std::move(folder))
    , extension_(std::move(extension))
    , former_(std::move(former))
    , byteLimit_(byteLimit)
    , thread_([this](const std::stop_token& stop) { loop(stop); }) {}

CacheFolder::~CacheFolder() {
    thread_.request_stop();
    changed_.notify_all();
}

fs::path CacheFolder::fileOf(const std::string& key) const {
    char digits[16];
    const auto end = std::to_chars(digits, digits + sizeof digits, hashOf(key), 16).ptr;
    return folder_ / (std::string(digits, end) + extension_);
}

void CacheFolder::touch(const fs::path& file) {
    std::error_code ec;
    fs::last_write_time(file, fs::file_time_type::clock::now(), ec);
}

void CacheFolder::keep(const std::string& key, std::size_t bytes, Write write) {
    const std::scoped_lock lock(mutex_);
    std::size_t waiting = 0;
    for (const Waiting& file : queue_)
        waiting += file.bytes;
    if (byteLimit_ == 0 || queue_.size() >= longestQueue || (waiting > 0 && waiting + bytes > largestQueue))
        return;
    queue_.push_back({key, bytes, std::move(write)});
    changed_.notify_all();
}

void CacheFolder::flush() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [this] { return queue_.empty() && !writing_; });
}

std::string CacheFolder::trouble() const {
    const std::scoped_lock lock(mutex_);
    return trouble_;
}

void CacheFolder::clear() {
    const std::scoped_lock lock(mutex_);
    queue_.clear();
    queue_.push_back({}); // no key: nothing is kept
    changed_.notify_all();
}

void CacheFolder::loop(const std::stop_token& stop) {
    yieldToInterface();
    removeLeftovers(folder_);
    removeFormer();
    while (true) {
        Waiting next;
        {
            std::unique_lock lock(mutex_);
            if (!changed_.wait(lock, stop, [this] { return !queue_.empty(); }) || stop.stop_requested())
                return;
            next = std::move(queue_.front());
            queue_.pop_front();
            writing_ = true;
        }
        std::string trouble;
        try {
            if (next.write) {
                std::error_code ec;
                fs::create_directories(folder_, ec);
                next.write(fileOf(next.key));
                makeRoom(byteLimit_);
            } else {
                makeRoom(0);
            }
        } catch (const std::exception& error) {
            trouble = sentenceOf(error);
        }
        next = {}; // what it holds is not needed any more, also by those who wait in flush()
        const std::scoped_lock lock(mutex_);
        writing_ = false;
        trouble_ = trouble;
        changed_.notify_all();
    }
}

void CacheFolder::removeFormer() const {
    if (former_.empty()) return;
    std::error_code ec;
    for (fs::directory_iterator entry(folder_, ec), end; !ec && entry != end; entry.increment(ec)) {
        std::error_code gone;
        if (entry->path().extension() == former_) fs::remove(entry->path(), gone);
    }
}

std::uintmax_t CacheFolder::bytes() const {
    std::uintmax_t sum = 0;
    std::error_code ec;
    for (fs::directory_iterator entry(folder_, ec), end; !ec && entry != end; entry.increment(ec)) {
        std::error_code gone;
        const std::uintmax_t size = entry->path().extension() == extension_ ? entry->file_size(gone) : 0;
        if (!gone) sum += size;
    }
    return sum;
}

void CacheFolder::makeRoom(std::uintmax_t limit) const {
    struct Kept {
        fs::file_time_type used;
        std::uintmax_t bytes;
        fs::path path;
    };
    std::vector<Kept> files;
    std::uintmax_t sum = 0;
    std::error_code ec;
    for (fs::directory_iterator entry(folder_, ec), end; !ec && entry != end; entry.increment(ec)) {
        if (entry->path().extension() != extension_) continue;
        std::error_code gone; // by another program
        Kept file{entry->last_write_time(gone), 0, entry->path()};
        if (!gone) file.bytes = entry->file_size(gone);
        if (gone) continue;
        sum += file.bytes;
        files.push_back(std::move(file));
    }
    std::sort(files.begin(), files.end(), [](const Kept& a, const Kept& b) { return a.used < b.used; });
    for (const Kept& file : files) {
        if (sum <= limit) return;
        std::error_code gone;
        fs::remove(file.path, gone);
        sum -= file.bytes;
    }
}

fs::path cacheFolderOfUser(const std::string& name) {
    if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache && *cache == '/')
        return fs::path(cache) / "yarngap" / name;
    if (const char* home = std::getenv("HOME"); home && *home == '/')
        return fs::path(home) / ".cache" / "yarngap" / name;
    return {};
}

} // namespace yarngap
