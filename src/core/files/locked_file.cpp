#include "core/files/locked_file.h"

#include <cerrno>
#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

namespace yarngap {

LockedFile::LockedFile(const std::filesystem::path& file) {
    descriptor_ = ::open(file.c_str(), O_RDONLY | O_NONBLOCK | O_NOCTTY | O_CLOEXEC);
    if (descriptor_ < 0) return;
    while (::flock(descriptor_, LOCK_EX) != 0 && errno == EINTR) {
    }
}

LockedFile::~LockedFile() {
    if (descriptor_ >= 0) ::close(descriptor_); // which gives the lock back
}

} // namespace yarngap
