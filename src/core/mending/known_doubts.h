// What was seen of doubtful gaps, kept between sessions.
#pragma once

#include "core/cache_folder.h"
#include "core/mending/doubt_list.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>

namespace yarngap {

/// Gaps by the key of the output frame that was looked at (see OutputFrames::key). A plain value.
class DoubtMemory {
  public:
    static constexpr std::size_t most = 100'000; ///< gaps; then it begins anew

    [[nodiscard]] std::optional<DoubtfulGap> find(const std::string& key) const;
    void insert(const std::string& key, const DoubtfulGap& gap);
    void insert(const DoubtMemory& other); ///< all that it knows
    [[nodiscard]] std::size_t size() const { return gaps_.size(); }

    [[nodiscard]] std::string bytes() const;
    /// Reads what bytes() gives; nothing where they make no sense.
    static std::optional<DoubtMemory> from(std::string_view bytes);

  private:
    std::unordered_map<std::uint64_t, DoubtfulGap> gaps_; ///< by a hash of the key, XXH3
};

/// Such memories of shots, in a folder of a limited size (see CacheFolder). What was kept by another version,
/// or is damaged, is seen anew. Thread-safe.
///
///     KnownDoubts known(cacheFolderOfUser("doubts"));
///     DoubtMemory memory = known.find(shotKeyOf(frames));
class KnownDoubts {
  public:
    static constexpr std::uintmax_t defaultBytes = std::uintmax_t{256} << 20;

    explicit KnownDoubts(std::filesystem::path folder, std::uintmax_t byteLimit = defaultBytes)
        : files_(std::move(folder), ".doubts", byteLimit) {}
    [[nodiscard]] DoubtMemory find(const std::string& shot) const;
    /// Queues it for writing.
    void keep(const std::string& shot, DoubtMemory memory);
    void flush() { files_.flush(); }

  private:
    CacheFolder files_;
};

/// Those that programs of this user keep for each other; null where there is no place for them.
std::shared_ptr<KnownDoubts> knownDoubtsOfUser();

/// Under which what is seen of a shot is kept: its pictures, whatever its timing and settings.
std::string shotKeyOf(const OutputFrames& frames);

} // namespace yarngap
