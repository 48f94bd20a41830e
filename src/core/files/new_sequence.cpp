#include "core/files/new_sequence.h"

#include "core/error.h"
#include "core/files/leftovers.h"
#include "core/files/new_file.h"
#include "core/files/write_failure.h"

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <fcntl.h>
#include <fstream>
#include <iterator>
#include <optional>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr const char* awayFolder = "replaced"; // in the hidden folder
constexpr const char* notesFile = "moves";     // the same
constexpr std::string_view firstNote = "yarngap moves 1";

bool isThere(const fs::path& path) {
    std::error_code ec;
    return fs::exists(fs::symlink_status(path, ec));
}

/// Moves a file, but not onto another. An errno value, 0 when all is well.
int moved(const fs::path& from, const fs::path& to) {
    if (::renameat2(AT_FDCWD, from.c_str(), AT_FDCWD, to.c_str(), RENAME_NOREPLACE) == 0) return 0;
    if (errno != EINVAL && errno != ENOSYS) return errno;
    // Not every file system can do both in one.
    if (isThere(to)) return EEXIST;
    return std::rename(from.c_str(), to.c_str()) == 0 ? 0 : errno;
}

int contentsSynced(const fs::path& folder, const std::vector<std::string>& names) {
    const int fd = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (fd < 0) return errno;
    int code = ::syncfs(fd) == 0 ? 0 : errno; // one wait for all
    ::close(fd);
    if (code == 0) return 0;
    // It may have been the trouble of another file.
    code = 0;
    for (const std::string& name : names)
        if (code == 0) code = syncFile(folder / name);
    return code;
}

/// What is to be moved, each name behind a letter: R replaced, N new. Names hold anything but zeros.
struct Notes {
    std::vector<std::string> replaced, names;
};

std::string textOf(const Notes& notes) {
    std::string text(firstNote);
    for (const std::string& name : notes.replaced)
        text += '\0' + ('R' + name);
    for (const std::string& name : notes.names)
        text += '\0' + ('N' + name);
    return text + '\0';
}

bool isPlainName(std::string_view name) {
    return !name.empty() && name != "." && name != ".." && name.find('/') == std::string_view::npos;
}

std::optional<Notes> notesIn(const fs::path& hidden) {
    std::ifstream in(hidden / notesFile, std::ios::binary);
    const std::string text{std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
    if (text.empty() || text.back() != '\0') return std::nullopt;
    Notes notes;
    bool first = true;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = text.find('\0', at);
        const std::string line = text.substr(at, end - at);
        at = end + 1;
        if (std::exchange(first, false)) {
            if (line != firstNote) return std::nullopt;
        } else if (line.size() > 1 && isPlainName(std::string_view(line).substr(1)) &&
                   (line[0] == 'R' || line[0] == 'N')) {
            (line[0] == 'R' ? notes.replaced : notes.names).push_back(line.substr(1));
        } else {
            return std::nullopt;
        }
    }
    return notes;
}

} // namespace

NewSequence::NewSequence(fs::path folder, std::vector<std::string> replaced)
    : folder_(folder.empty() ? fs::path(".") : std::move(folder))
    , hidden_(partialNameIn(folder_))
    , replaced_(std::move(replaced)) {
    if (::mkdir(hidden_.c_str(), 0777) == 0) return;
    const int code = errno;
    hidden_.clear();
    throw Error(writeFailure(folder_, code));
}

NewSequence::~NewSequence() {
    std::error_code ec;
    if (!hidden_.empty()) fs::remove_all(hidden_, ec);
}

fs::path NewSequence::placeFor(const std::string& name) {
    names_.push_back(name);
    return hidden_ / name;
}

void NewSequence::finish() {
    for (const std::string& name : names_)
        if (std::find(replaced_.begin(), replaced_.end(), name) == replaced_.end() &&
            isThere(folder_ / name)) {
            std::error_code ec;
            throw Error(fs::is_directory(folder_ / name, ec)
                            ? writeFailure(folder_ / name, EISDIR)
                            : (folder_ / name).string() +
                                  " came to be while the pictures were made, and is not overwritten. Choose "
                                  "another name.");
        }
    if (const int code = contentsSynced(hidden_, names_); code != 0)
        throw Error(writeFailure(folder_ / names_.front(), code));
    if (::mkdir((hidden_ / awayFolder).c_str(), 0777) != 0)
        throw Error(writeFailure(folder_ / names_.front(), errno));
    {
        NewFile notes(hidden_ / notesFile);
        notes.write(textOf({replaced_, names_}));
        notes.finish();
    }
    moveAll();
    std::error_code ec;
    fs::remove_all(std::exchange(hidden_, {}), ec);
    if (const int code = syncFolder(folder_); code != 0) throw Error(writeFailure(folder_, code));
}

void NewSequence::moveAll() {
    std::size_t away = 0;
    std::size_t in = 0;
    const auto failed = [&](const std::string& name, int code) {
        moveBack(away, in);
        throw Error(writeFailure(folder_ / name, code));
    };
    for (const std::string& name : replaced_) {
        const int code = moved(folder_ / name, hidden_ / awayFolder / name);
        if (code != 0 && code != ENOENT) failed(name, code);
        ++away;
    }
    for (const std::string& name : names_) {
        if (const int code = moved(hidden_ / name, folder_ / name); code != 0) failed(name, code);
        ++in;
    }
}

void NewSequence::moveBack(std::size_t away, std::size_t in) {
    bool whole = true;
    for (std::size_t i = 0; i < in; ++i)
        whole &= moved(folder_ / names_[i], hidden_ / names_[i]) == 0;
    for (std::size_t i = 0; i < away; ++i)
        if (isThere(hidden_ / awayFolder / replaced_[i]))
            whole &= moved(hidden_ / awayFolder / replaced_[i], folder_ / replaced_[i]) == 0;
    if (whole) return;
    const std::string left = std::exchange(hidden_, {}).string();
    throw Error("The disk failed while pictures were moved into " + folder_.string() +
                ". Those that are not there lie in " + left + ". Check the disk, and render once more.");
}

bool completeMoves(const fs::path& hidden) {
    const auto notes = notesIn(hidden);
    if (!notes) return true; // it never began to move
    const fs::path folder = hidden.parent_path();
    // New files move when all that they replace is gone.
    const bool allAway = std::any_of(notes->names.begin(), notes->names.end(),
                                     [&](const std::string& name) { return !isThere(hidden / name); });
    if (!allAway)
        for (const std::string& name : notes->replaced)
            if (const int code = moved(folder / name, hidden / awayFolder / name);
                code != 0 && code != ENOENT)
                return false;
    for (const std::string& name : notes->names)
        if (isThere(hidden / name) && moved(hidden / name, folder / name) != 0) return false;
    return syncFolder(folder) == 0;
}

} // namespace yarngap
