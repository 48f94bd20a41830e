#include "core/files/local_file.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/uio.h>
#include <unistd.h>
#include <utility>
#include <vector>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

/// `code`: an errno value of stat() or open().
Error cannotOpen(const fs::path& path, int code) {
    const std::string name = path.string();
    if (code == ENOENT || code == ENOTDIR)
        return Error(
            "There is no file " + name +
            ". Check its name, and whether the disk it lies on is connected. Only local files can be "
            "opened.");
    if (code == EMFILE || code == ENFILE)
        return Error(name + " cannot be opened, because too many files are open. Close other programs.");
    if (code == ENOMEM)
        return Error("There is not enough memory to open " + name + ". Close other programs.");
    return Error(name + " cannot be opened (" + std::strerror(code) +
                 "). Check the permissions of the file.");
}

SourceLost cannotRead(const fs::path& path, int code) {
    return SourceLost(path.string() + " cannot be read any further (" + std::strerror(code) +
                      "). Check the disk it lies on.");
}

} // namespace

struct LocalFile::Descriptor {
    int number = -1;

    explicit Descriptor(int opened)
        : number(opened) {}
    ~Descriptor() { ::close(number); }
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    Descriptor(Descriptor&&) = delete;
    Descriptor& operator=(Descriptor&&) = delete;

    /// Looks before it opens: opening alone does something to some devices.
    static std::shared_ptr<const Descriptor> open(const fs::path& path) {
        struct stat s {};
        if (::stat(path.c_str(), &s) != 0) throw cannotOpen(path, errno);
        refuseUnlessOrdinary(path, s.st_mode);
        int fd = -1;
        do
            fd = ::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_NOCTTY | O_CLOEXEC);
        while (fd < 0 && errno == EINTR);
        if (fd < 0) throw cannotOpen(path, errno);
        auto opened = std::make_shared<const Descriptor>(fd);
        if (::fstat(fd, &s) != 0) throw cannotOpen(path, errno);
        refuseUnlessOrdinary(path, s.st_mode); // another file may have taken the name meanwhile
        return opened;
    }

  private:
    static void refuseUnlessOrdinary(const fs::path& path, mode_t mode) {
        if (S_ISDIR(mode)) throw Error(path.string() + " is a folder. Choose a file inside it.");
        if (!S_ISREG(mode))
            throw Error(path.string() +
                        " is not an ordinary file, but a pipe or a device. Only local files can be opened.");
    }
};

struct LocalFile::Block {
    std::vector<std::byte> bytes;
    std::size_t got = 0;
    int code = 0; ///< errno of a failed read

    void fill(int descriptor, std::int64_t at, std::size_t wanted) {
        got = 0;
        code = 0;
        while (got < wanted) {
            const ssize_t n =
                ::pread(descriptor, bytes.data() + got, wanted - got, at + static_cast<std::int64_t>(got));
            if (n == 0) return;
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) {
                code = errno;
                return;
            }
            got += static_cast<std::size_t>(n);
        }
    }
};

LocalFile::LocalFile(fs::path path, std::shared_ptr<ReadingThread> thread, const std::stop_token& stop)
    : path_(std::move(path))
    , thread_(std::move(thread)) {
    struct Opened {
        std::shared_ptr<const Descriptor> descriptor;
        std::optional<FileEdition> edition;
    };
    auto opened = std::make_shared<Opened>();
    thread_->run(
        [opened, file = path_] {
            opened->descriptor = Descriptor::open(file);
            opened->edition = editionOf(opened->descriptor->number);
        },
        stop);
    descriptor_ = opened->descriptor;
    edition_ = opened->edition.value_or(FileEdition{});
}

namespace {

/// What of a read needs no waiting, since it lies in memory already. Less than asked for where the disk must
/// be asked, on disks that do not tell, and on errors; `ended` at the end of the file.
std::size_t readFromMemory(int descriptor, std::int64_t at, std::span<std::byte> to, bool& ended) {
    std::size_t got = 0;
    while (got < to.size()) {
        const iovec part{to.data() + got, to.size() - got};
        const ssize_t n = ::preadv2(descriptor, &part, 1, at + static_cast<std::int64_t>(got), RWF_NOWAIT);
        ended = n == 0;
        if (n <= 0) break;
        got += static_cast<std::size_t>(n);
    }
    return got;
}

} // namespace

std::size_t LocalFile::read(std::int64_t at, std::span<std::byte> to, const std::stop_token& stop) {
    if (at < 0) throw Error("A place before the beginning of " + path_.string() + " was asked for.");
    if (stop.stop_requested()) throw Cancelled();
    bool ended = false;
    const std::size_t ready = readFromMemory(descriptor_->number, at, to, ended);
    if (ended || ready == to.size()) return noted(at, ready, to.size());
    const std::size_t rest = to.size() - ready;
    if (!block_ || block_.use_count() > 1) block_ = std::make_shared<Block>();
    if (block_->bytes.size() < rest) block_->bytes.resize(rest);
    const std::int64_t from = at + static_cast<std::int64_t>(ready);
    thread_->run([block = block_, from, rest, file = descriptor_] { block->fill(file->number, from, rest); },
                 stop);
    if (block_->code != 0) throw cannotRead(path_, block_->code);
    std::copy_n(block_->bytes.begin(), block_->got, to.subspan(ready).begin());
    return noted(at, ready + block_->got, to.size());
}

std::size_t LocalFile::noted(std::int64_t at, std::size_t got, std::size_t wanted) {
    next_ = at + static_cast<std::int64_t>(got);
    if (got < wanted && next_ < edition_.bytes) throw changedOnDisk(path_); // cut since it was opened
    return got;
}

bool LocalFile::hasChanged() const {
    const auto now = editionOf(descriptor_->number);
    return !now || !now->sameContent(edition_);
}

std::string contentOf(const fs::path& file, std::int64_t most, const std::string& kind,
                      const std::stop_token& stop) {
    LocalFile in(file, std::make_shared<ReadingThread>(), stop);
    constexpr std::int64_t megabyte = std::int64_t{1} << 20;
    if (in.bytes() > most)
        throw Error(file.string() + " is too large for a " + kind + " (over " +
                    std::to_string(most / megabyte) + " MB). Choose another file.");
    // A file that grows while it is read is one that somebody is writing.
    std::string content(static_cast<std::size_t>(in.bytes()), '\0');
    content.resize(in.read(0, std::as_writable_bytes(std::span(content)), stop));
    return content;
}

SourceLost changedOnDisk(const fs::path& file) {
    return SourceLost(file.string() + " changed on disk since it was opened. Open it again.");
}

} // namespace yarngap
