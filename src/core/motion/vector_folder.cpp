#include "core/motion/vector_folder.h"

#include "core/background_priority.h"
#include "core/error.h"
#include "core/motion/vector_file.h"

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <vector>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t longestQueue = 4;
constexpr std::size_t largestQueue = std::size_t{160} << 20; // bytes
constexpr const char* extension = ".exr";
constexpr const char* partial = ".exr.partial-";

/// FNV-1a. A clash does no harm, since the file holds the whole key.
std::uint64_t hashOf(const std::string& text) {
    std::uint64_t hash = 14695981039346656037ULL;
    for (const char c : text)
        hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
    return hash;
}

bool isRunning(int process) {
    return ::kill(process, 0) == 0 || errno != ESRCH;
}

} // namespace

VectorFolder::VectorFolder(fs::path folder, std::uintmax_t byteLimit)
    : folder_(std::move(folder))
    , byteLimit_(byteLimit)
    , thread_([this](const std::stop_token& stop) { loop(stop); }) {}

VectorFolder::~VectorFolder() {
    thread_.request_stop();
    changed_.notify_all();
}

fs::path VectorFolder::fileOf(const std::string& key) const {
    char digits[16];
    const auto end = std::to_chars(digits, digits + sizeof digits, hashOf(key), 16).ptr;
    return folder_ / (std::string(digits, end) + extension);
}

VectorsPtr VectorFolder::find(const std::string& key) const {
    const fs::path file = fileOf(key);
    std::error_code ec;
    if (!fs::exists(file, ec)) return nullptr;
    try {
        KeyedVectors kept = readVectors(file);
        if (kept.key != key) return nullptr;
        fs::last_write_time(file, fs::file_time_type::clock::now(), ec);
        return std::make_shared<Vectors>(std::move(kept.vectors));
    } catch (const Error&) {
        fs::remove(file, ec); // it will be made again
        return nullptr;
    }
}

void VectorFolder::keep(const std::string& key, VectorsPtr vectors) {
    const std::scoped_lock lock(mutex_);
    std::size_t bytes = 0;
    for (const auto& [waiting, gap] : queue_)
        bytes += gap->byteCount();
    if (queue_.size() >= longestQueue || (bytes > 0 && bytes + vectors->byteCount() > largestQueue)) return;
    queue_.emplace_back(key, std::move(vectors));
    changed_.notify_all();
}

void VectorFolder::flush() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [this] { return queue_.empty() && !writing_; });
}

std::string VectorFolder::trouble() const {
    const std::scoped_lock lock(mutex_);
    return trouble_;
}

void VectorFolder::loop(const std::stop_token& stop) {
    yieldToInterface();
    removeLeftovers();
    while (true) {
        std::pair<std::string, VectorsPtr> next;
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
            std::error_code ec;
            fs::create_directories(folder_, ec);
            writeVectors(fileOf(next.first), *next.second, next.first);
            makeRoom();
        } catch (const std::exception& error) {
            trouble = error.what();
        }
        const std::scoped_lock lock(mutex_);
        writing_ = false;
        trouble_ = trouble;
        changed_.notify_all();
    }
}

void VectorFolder::removeLeftovers() const {
    std::error_code ec;
    for (fs::directory_iterator entry(folder_, ec), end; !ec && entry != end; entry.increment(ec)) {
        const std::string name = entry->path().filename().string();
        const auto at = name.find(partial);
        if (at == std::string::npos) continue;
        int process = 0;
        const char* digits = name.c_str() + at + std::string_view(partial).size();
        std::from_chars(digits, name.c_str() + name.size(), process);
        std::error_code ignored;
        if (process <= 0 || !isRunning(process)) fs::remove(entry->path(), ignored);
    }
}

std::uintmax_t VectorFolder::bytes() const {
    std::uintmax_t sum = 0;
    std::error_code ec;
    for (fs::directory_iterator entry(folder_, ec), end; !ec && entry != end; entry.increment(ec)) {
        std::error_code gone;
        const std::uintmax_t size = entry->path().extension() == extension ? entry->file_size(gone) : 0;
        if (!gone) sum += size;
    }
    return sum;
}

void VectorFolder::makeRoom() const {
    struct Kept {
        fs::file_time_type used;
        std::uintmax_t bytes;
        fs::path path;
    };
    std::vector<Kept> files;
    std::uintmax_t sum = 0;
    std::error_code ec;
    for (fs::directory_iterator entry(folder_, ec), end; !ec && entry != end; entry.increment(ec)) {
        if (entry->path().extension() != extension) continue;
        std::error_code gone; // by another program
        Kept file{entry->last_write_time(gone), 0, entry->path()};
        if (!gone) file.bytes = entry->file_size(gone);
        if (gone) continue;
        sum += file.bytes;
        files.push_back(std::move(file));
    }
    std::sort(files.begin(), files.end(), [](const Kept& a, const Kept& b) { return a.used < b.used; });
    for (const Kept& file : files) {
        if (sum <= byteLimit_) return;
        std::error_code gone;
        fs::remove(file.path, gone);
        sum -= file.bytes;
    }
}

fs::path defaultVectorFolder() {
    if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache && *cache == '/')
        return fs::path(cache) / "yarngap" / "vectors";
    if (const char* home = std::getenv("HOME"); home && *home == '/')
        return fs::path(home) / ".cache" / "yarngap" / "vectors";
    return {};
}

} // namespace yarngap
