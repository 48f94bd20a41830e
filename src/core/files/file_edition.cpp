#include "core/files/file_edition.h"

#include <sys/stat.h>

namespace yarngap {

namespace {

std::int64_t nanoseconds(const timespec& time) {
    return std::int64_t{time.tv_sec} * 1'000'000'000 + time.tv_nsec;
}

FileEdition editionFrom(const struct stat& s) {
    return {{s.st_dev, s.st_ino}, s.st_size, nanoseconds(s.st_mtim), nanoseconds(s.st_ctim)};
}

} // namespace

std::optional<FileEdition> editionOf(const std::filesystem::path& file) {
    struct stat s {};
    return ::stat(file.c_str(), &s) == 0 ? std::optional(editionFrom(s)) : std::nullopt;
}

std::optional<FileEdition> editionOf(int descriptor) {
    struct stat s {};
    return ::fstat(descriptor, &s) == 0 ? std::optional(editionFrom(s)) : std::nullopt;
}

} // namespace yarngap
