#include "core/files/file_once.h"

#include "core/error.h"
#include "core/files/leftovers.h"
#include "core/files/new_file.h"
#include "core/files/write_failure.h"

#include <cerrno>
#include <cstdio>
#include <fcntl.h>
#include <unistd.h>

namespace yarngap {

bool writeOnce(const std::filesystem::path& target, std::string_view content) {
    const std::filesystem::path folder = target.has_parent_path() ? target.parent_path() : ".";
    const std::filesystem::path own = partialNameIn(folder);
    {
        NewFile file(own, target);
        file.write(content);
        file.finish();
    }
    // A second name is given by one program only, and never in place of another file.
    int linked = ::link(own.c_str(), target.c_str());
    if (linked != 0 && (errno == EPERM || errno == EOPNOTSUPP || errno == EMLINK)) // a disk without links
        linked = ::renameat2(AT_FDCWD, own.c_str(), AT_FDCWD, target.c_str(), RENAME_NOREPLACE);
    const int code = errno;
    ::unlink(own.c_str());
    if (linked == 0) {
        syncFolder(folder);
        return true;
    }
    if (code == EEXIST) return false;
    throw Error(writeFailure(target, code));
}

} // namespace yarngap
