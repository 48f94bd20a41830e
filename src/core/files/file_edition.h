// Which file it is, and whether it is still as it was.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>

namespace yarngap {

/// Device and inode: the same for all names, links and spellings of one file.
struct FilePlace {
    std::uint64_t device = 0;
    std::uint64_t inode = 0;

    friend bool operator==(const FilePlace&, const FilePlace&) = default;
    friend bool operator<(const FilePlace& a, const FilePlace& b) {
        return a.device != b.device ? a.device < b.device : a.inode < b.inode;
    }
};

/// A file at one moment, as the file system tells.
struct FileEdition {
    FilePlace place;
    std::int64_t bytes = 0;
    std::int64_t modified = 0; ///< nanoseconds since 1970; a program can set it to anything
    std::int64_t changed =
        0; ///< the same of the inode: any write moves it on, and no program can set it back

    /// Whether nobody wrote to the file between the two. A new name or new permissions do not count.
    [[nodiscard]] bool sameContent(const FileEdition& other) const {
        return place == other.place && bytes == other.bytes && modified == other.modified;
    }
    friend bool operator==(const FileEdition&, const FileEdition&) = default;
};

/// Links are followed. Nothing when there is no such file.
std::optional<FileEdition> editionOf(const std::filesystem::path& file);
/// The same of an open file.
std::optional<FileEdition> editionOf(int descriptor);

} // namespace yarngap
