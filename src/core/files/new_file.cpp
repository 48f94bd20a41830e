#include "core/files/new_file.h"

#include "core/error.h"
#include "core/files/leftovers.h"
#include "core/files/write_failure.h"

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t bufferBytes = std::size_t{256} << 10;
constexpr std::int64_t pushEvery = std::int64_t{16} << 20;
constexpr int mostLinks = 40;

int closed(int descriptor) {
    return ::close(descriptor) == 0 || errno == EINTR ? 0 : errno;
}

int synced(int descriptor) {
    while (::fsync(descriptor) != 0) {
        if (errno == EINTR) continue;
        // Some file systems have nothing to wait for.
        return errno == EINVAL || errno == ENOTSUP || errno == EROFS ? 0 : errno;
    }
    return 0;
}

int openedAndSynced(const fs::path& path, int flags) {
    int fd = -1;
    do
        fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | flags);
    while (fd < 0 && errno == EINTR);
    if (fd < 0) return errno;
    const int code = synced(fd);
    ::close(fd);
    return code;
}

} // namespace

int createAnew(const fs::path& file) {
    constexpr mode_t asUsual = 0666; // less the user's mask
    int fd = -1;
    do
        fd = ::open(file.c_str(), O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, asUsual);
    while (fd < 0 && errno == EINTR);
    return fd;
}

int syncFolder(const fs::path& folder) {
    return openedAndSynced(folder.empty() ? fs::path(".") : folder, O_DIRECTORY);
}

int syncFile(const fs::path& file) {
    return openedAndSynced(file, 0);
}

fs::path withLinksFollowed(const fs::path& target) {
    fs::path path = target;
    std::error_code ec;
    for (int links = 0; links < mostLinks && fs::is_symlink(fs::symlink_status(path, ec)); ++links) {
        const fs::path to = fs::read_symlink(path, ec);
        if (ec) break;
        path = to.is_absolute() ? to : path.parent_path() / to;
    }
    return path;
}

NewFile::NewFile(const fs::path& target, fs::path called)
    : target_(withLinksFollowed(target))
    , called_(std::move(called)) {
    struct stat there {};
    if (::stat(target_.c_str(), &there) == 0 && !S_ISREG(there.st_mode)) {
        if (S_ISDIR(there.st_mode)) fail(EISDIR);
        throw Error(called_.string() + " is not an ordinary file, and is not replaced. Choose another name.");
    }
    buffer_.resize(bufferBytes);
    constexpr int attempts = 8;
    for (int i = 0; i < attempts && descriptor_ < 0; ++i) {
        temporary_ = partialNameIn(target_.parent_path());
        descriptor_ = createAnew(temporary_);
        if (descriptor_ < 0 && errno != EEXIST) break;
    }
    if (descriptor_ >= 0) return;
    const int code = errno;
    temporary_.clear(); // not ours
    fail(code);
}

NewFile::~NewFile() {
    giveUp();
}

void NewFile::giveUp() noexcept {
    if (descriptor_ >= 0) ::close(std::exchange(descriptor_, -1));
    if (!temporary_.empty()) ::unlink(temporary_.c_str());
    temporary_.clear();
}

void NewFile::fail(int code) {
    giveUp();
    throw Error(writeFailure(called_, code));
}

std::int64_t NewFile::bytes() const {
    return std::max(end_, place());
}

void NewFile::write(std::span<const std::byte> bytes) {
    while (!bytes.empty()) {
        const std::size_t part = std::min(bytes.size(), buffer_.size() - used_);
        std::copy_n(bytes.begin(), part, buffer_.begin() + static_cast<std::ptrdiff_t>(used_));
        used_ += part;
        bytes = bytes.subspan(part);
        if (used_ == buffer_.size()) writeOut();
    }
}

void NewFile::seek(std::int64_t place) {
    if (place == this->place()) return;
    writeOut();
    bufferStart_ = place;
}

void NewFile::writeOut() {
    if (descriptor_ < 0) fail(EBADF); // it failed before
    std::size_t done = 0;
    while (done < used_) {
        const ssize_t n = ::pwrite(descriptor_, buffer_.data() + done, used_ - done,
                                   bufferStart_ + static_cast<std::int64_t>(done));
        if (n < 0 && errno != EINTR) fail(errno);
        if (n == 0) fail(EIO);
        if (n > 0) done += static_cast<std::size_t>(n);
    }
    bufferStart_ += static_cast<std::int64_t>(used_);
    used_ = 0;
    end_ = std::max(end_, bufferStart_);
    if (synced_ && end_ - pushed_ >= pushEvery) {
        // The disk begins now, so that there is little to wait for at the end. A hint; finish() finds
        // failures.
        ::sync_file_range(descriptor_, pushed_, end_ - pushed_, SYNC_FILE_RANGE_WRITE);
        pushed_ = end_;
    }
}

std::size_t NewFile::read(std::int64_t at, std::span<std::byte> to) {
    writeOut();
    std::size_t got = 0;
    while (got < to.size()) {
        const ssize_t n =
            ::pread(descriptor_, to.data() + got, to.size() - got, at + static_cast<std::int64_t>(got));
        if (n == 0) break;
        if (n < 0 && errno != EINTR) fail(errno);
        if (n > 0) got += static_cast<std::size_t>(n);
    }
    return got;
}

void NewFile::finish() {
    writeOut();
    struct stat before {};
    if (::stat(target_.c_str(), &before) == 0) ::fchmod(descriptor_, before.st_mode & 07777U);
    if (synced_)
        if (const int code = synced(descriptor_); code != 0) fail(code);
    struct stat written {};
    if (::fstat(descriptor_, &written) != 0) fail(errno);
    if (written.st_size != end_) fail(EIO);
    if (const int code = closed(std::exchange(descriptor_, -1)); code != 0) fail(code);
    if (std::rename(temporary_.c_str(), target_.c_str()) != 0) fail(errno);
    temporary_.clear();
    if (!synced_) return;
    if (const int code = syncFolder(target_.parent_path()); code != 0) fail(code);
}

void writeWhole(const fs::path& target, std::string_view content) {
    removeLeftovers(withLinksFollowed(target).parent_path());
    NewFile file(target);
    file.write(content);
    file.finish();
}

} // namespace yarngap
