// The parts of a render on disk, from which it can go on.
#pragma once

#include "core/media/output_scan.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// Frames that are made for one slice, among all of a render; `end` is not included.
struct Slice {
    std::int64_t first = 0, end = 0;
    [[nodiscard]] std::int64_t frames() const { return end - first; }
    friend bool operator==(const Slice&, const Slice&) = default;
};

/// `total` frames in `count` slices of about one length, none of which begins inside a pattern of fields.
/// There are fewer slices than asked for where there are not enough frames.
[[nodiscard]] std::vector<Slice> slicesOf(std::int64_t total, int count, OutputScan scan);

/// How many slices a render of so many frames has when nobody says: one for each two seconds or so, at most
/// 2000.
[[nodiscard]] int usualSliceCount(std::int64_t frames);

/// What a slice says of itself once it is complete.
struct SliceRecord {
    /// One of its files, by its name in the folder.
    struct File {
        std::string name;
        std::int64_t bytes = 0;
        std::uint64_t hash = 0;
        friend bool operator==(const File&, const File&) = default;
    };
    std::string key;         ///< of its frames and of how they are written; equal for equal files
    std::int64_t frames = 0; ///< written
    std::vector<File> files;
    /// Originals, repeats, blends, flows, held frames and stand-ins among them.
    std::vector<std::int64_t> counts;
    double edgeScale = 1;
    double seconds = 0;             ///< that it took
    std::vector<std::string> notes; ///< about its frames, a sentence each

    friend bool operator==(const SliceRecord&, const SliceRecord&) = default;
};

/// A folder with the finished slices of one render, "OUT.slices" beside OUT. Several programs, on several
/// machines, may work in it at a time.
///
///     SliceFolder folder(SliceFolder::beside(target));
///     if (!folder.finished(3, key)) { write(folder.place(3, …)); folder.finish(3, record, files); }
class SliceFolder {
  public:
    explicit SliceFolder(std::filesystem::path folder)
        : folder_(std::move(folder)) {}
    [[nodiscard]] static std::filesystem::path beside(const std::filesystem::path& target);

    [[nodiscard]] const std::filesystem::path& path() const { return folder_; }
    /// Creates it where it is not there. Throws Error.
    void create() const;
    /// Where slice `n` writes a file like `target`: "0003.mkv", or "0003/fox_####.png" of a sequence, whose
    /// folder is created. `stream` tells apart the files of several targets.
    [[nodiscard]] std::filesystem::path place(int n, int stream, const std::filesystem::path& target,
                                              bool sequence) const;
    /// The record of slice `n` with that key, when it is complete and its files are there at their size.
    [[nodiscard]] std::optional<SliceRecord> finished(int n, const std::string& key) const;
    /// Records slice `n`, whose files `record.files` names; their sizes and hashes are filled in. Throws
    /// Error, Cancelled.
    void finish(int n, SliceRecord record, const std::stop_token& stop) const;
    /// Throws Error naming the slice and what is wrong when its files are not what the record says.
    void verify(int n, const SliceRecord& record, const std::stop_token& stop) const;
    /// Takes the folder away with all that this program put there; nothing else. False where some of that
    /// stays.
    bool remove() const;

    /// The job that all workers share, written by the first of them; see work_file.h.
    [[nodiscard]] std::filesystem::path workFile() const { return folder_ / "work.json"; }

  private:
    [[nodiscard]] std::filesystem::path recordFile(int n) const;

    std::filesystem::path folder_;
};

} // namespace yarngap
