// A file in the making.
#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

namespace yarngap {

/// A file that is there when it is whole, or not there.
///
/// It is written under a hidden name of its own in the folder of `target`. finish() writes out what is
/// buffered, waits until the disk has it, compares its size with what was written, and only then lets it take
/// the target's place; what was there before stays until then, and its permissions stay for good. A target
/// that is a link stays one: the file it leads to is replaced. Destroyed before finish(), it leaves nothing;
/// what a killed process leaves, removeLeftovers() takes away.
///
/// All of it throws Error with a sentence that names the target. Not thread-safe.
///
///     NewFile file(target);
///     file.write(bytes);
///     file.finish();
class NewFile {
  public:
    explicit NewFile(const std::filesystem::path& target)
        : NewFile(target, target) {}
    /// `called`: what messages call it, where it is part of something larger.
    NewFile(const std::filesystem::path& target, std::filesystem::path called);
    ~NewFile();
    NewFile(const NewFile&) = delete;
    NewFile& operator=(const NewFile&) = delete;
    NewFile(NewFile&&) = delete;
    NewFile& operator=(NewFile&&) = delete;

    /// Writes at the present place, which moves on.
    void write(std::span<const std::byte> bytes);
    void write(std::string_view text) { write(std::as_bytes(std::span(text))); }
    /// Moves to `place`, counted from the start.
    void seek(std::int64_t place);
    [[nodiscard]] std::int64_t place() const { return bufferStart_ + static_cast<std::int64_t>(used_); }
    /// Bytes so far.
    [[nodiscard]] std::int64_t bytes() const;
    /// Reads back what was written.
    std::size_t read(std::int64_t at, std::span<std::byte> to);

    /// Whether finish() waits until the disk has it. True unless switched off, for what can be made again.
    void setSynced(bool synced) { synced_ = synced; }
    void finish();

    [[nodiscard]] const std::filesystem::path& target() const { return target_; }
    [[nodiscard]] const std::filesystem::path& called() const { return called_; }

  private:
    void writeOut();
    void giveUp() noexcept;
    [[noreturn]] void fail(int code);

    std::filesystem::path target_; ///< with links followed
    std::filesystem::path called_;
    std::filesystem::path temporary_; ///< empty once it has its name
    int descriptor_ = -1;
    bool synced_ = true;
    std::vector<std::byte> buffer_;
    std::size_t used_ = 0;
    std::int64_t bufferStart_ = 0; ///< where in the file the buffer begins
    std::int64_t end_ = 0;         ///< bytes written out, the highest place
    std::int64_t pushed_ = 0;      ///< up to where the disk was asked to begin
};

/// Writes a whole small file as NewFile does, once leftovers in its folder are taken away. Throws Error.
void writeWhole(const std::filesystem::path& target, std::string_view content);

/// `target` with links followed as far as they lead, also to a file that is not there.
std::filesystem::path withLinksFollowed(const std::filesystem::path& target);

/// Waits until the disk has the names in `folder`. Returns an errno value, 0 when all is well.
int syncFolder(const std::filesystem::path& folder);
/// The same of the content of a file.
int syncFile(const std::filesystem::path& file);

/// Creates `file`, which must not be there, and follows no link. A descriptor, or −1 with errno set.
int createAnew(const std::filesystem::path& file);

} // namespace yarngap
