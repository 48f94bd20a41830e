#include "core/mending/known_doubts.h"

#include "core/files/kept_value.h"
#include "core/media/media_identity.h"
#include "core/motion/vector_generation.h"

#include <array>
#include <cstring>
#include <span>
#include <utility>

namespace yarngap {

namespace {

/// Raised whenever doubtIn() begins to tell something else of the same motion.
constexpr int generation = 2;

std::uint64_t hashed(const std::string& key) {
    return hashOf(std::as_bytes(std::span(key)));
}

/// A gap as it is written.
struct Kept {
    std::uint64_t key = 0;
    double doubt = 0, farthest = 0, widthShare = 0;
    std::array<std::int32_t, 4> box{};
    std::array<std::uint8_t, 16> why{}; ///< reasons plus one, in order; then 0
};
static_assert(sizeof(Kept) == 64);

} // namespace

std::optional<DoubtfulGap> DoubtMemory::find(const std::string& key) const {
    const auto at = gaps_.find(hashed(key));
    return at == gaps_.end() ? std::nullopt : std::optional(at->second);
}

void DoubtMemory::insert(const std::string& key, const DoubtfulGap& gap) {
    if (gaps_.size() >= most) gaps_.clear();
    gaps_.insert_or_assign(hashed(key), gap);
}

void DoubtMemory::insert(const DoubtMemory& other) {
    gaps_.insert(other.gaps_.begin(), other.gaps_.end());
}

std::string DoubtMemory::bytes() const {
    std::string out;
    out.reserve(gaps_.size() * sizeof(Kept));
    for (const auto& [key, gap] : gaps_) {
        Kept kept{key,
                  gap.doubt,
                  gap.farthest,
                  gap.widthShare,
                  {gap.box.x, gap.box.y, gap.box.width, gap.box.height},
                  {}};
        for (std::size_t i = 0; i < std::min(gap.why.size(), kept.why.size()); ++i)
            kept.why[i] = static_cast<std::uint8_t>(static_cast<int>(gap.why[i]) + 1);
        std::array<char, sizeof(Kept)> raw{};
        std::memcpy(raw.data(), &kept, sizeof(Kept));
        out.append(raw.data(), raw.size());
    }
    return out;
}

std::optional<DoubtMemory> DoubtMemory::from(std::string_view bytes) {
    if (bytes.size() % sizeof(Kept) != 0 || bytes.size() / sizeof(Kept) > most) return std::nullopt;
    DoubtMemory memory;
    for (std::size_t at = 0; at < bytes.size(); at += sizeof(Kept)) {
        Kept kept;
        std::memcpy(&kept, bytes.data() + at, sizeof(Kept));
        DoubtfulGap gap;
        gap.doubt = kept.doubt;
        gap.farthest = kept.farthest;
        gap.widthShare = kept.widthShare;
        gap.box = {kept.box[0], kept.box[1], kept.box[2], kept.box[3]};
        for (const std::uint8_t reason : kept.why) {
            if (reason == 0) break;
            if (reason > static_cast<int>(DoubtReason::repeats) + 1) return std::nullopt;
            gap.why.push_back(static_cast<DoubtReason>(reason - 1));
        }
        if (!(gap.doubt >= 0 && gap.doubt <= 1)) return std::nullopt;
        memory.gaps_.emplace(kept.key, std::move(gap));
    }
    return memory;
}

DoubtMemory KnownDoubts::find(const std::string& shot) const {
    const std::filesystem::path file = files_.fileOf(shot);
    if (file.empty()) return {};
    const auto bytes = readKept(file, shot);
    auto memory = bytes ? DoubtMemory::from(*bytes) : std::nullopt;
    if (!memory) return {};
    CacheFolder::touch(file);
    return *std::move(memory);
}

void KnownDoubts::keep(const std::string& shot, DoubtMemory memory) {
    const std::size_t bytes = memory.size() * sizeof(Kept);
    files_.keep(shot, bytes, [shot, memory = std::move(memory)](const std::filesystem::path& file) {
        writeKept(file, shot, memory.bytes());
    });
}

std::shared_ptr<KnownDoubts> knownDoubtsOfUser() {
    std::filesystem::path folder = cacheFolderOfUser("doubts");
    return folder.empty() ? nullptr : std::make_shared<KnownDoubts>(std::move(folder));
}

std::string shotKeyOf(const OutputFrames& frames) {
    return std::to_string(generation) + '.' + std::to_string(vectorGeneration) +
           ":doubts:" + frames.source().identityOf(0);
}

} // namespace yarngap
