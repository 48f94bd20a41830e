#include "core/media/media_identity.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <fstream>
#include <vector>

namespace yarngap {

namespace {

/// FNV-1a, 64 bit (Fowler, Noll, Vo).
class Hash {
  public:
    void add(const char* data, std::size_t size) {
        for (std::size_t i = 0; i < size; ++i)
            value_ = (value_ ^ static_cast<std::uint8_t>(data[i])) * 0x100000001B3ULL;
    }
    void add(std::int64_t v) { add(reinterpret_cast<const char*>(&v), sizeof v); }
    [[nodiscard]] std::uint64_t value() const { return value_; }

  private:
    std::uint64_t value_ = 0xCBF29CE484222325ULL;
};

} // namespace

std::string mediaIdentity(const MediaIndex& index) {
    Hash hash;
    const std::int64_t size = index.facts.fileBytes;
    hash.add(size);
    for (const PacketEntry& p : index.packets) {
        hash.add(p.size);
        hash.add(p.key ? 1 : 0);
    }
    std::ifstream file(index.facts.path, std::ios::binary);
    std::vector<char> block(std::size_t{64} << 10);
    const auto blockSize = static_cast<std::int64_t>(block.size());
    for (const std::int64_t at : {std::int64_t{0}, size / 2, std::max<std::int64_t>(0, size - blockSize)}) {
        file.clear();
        file.seekg(at);
        file.read(block.data(), blockSize);
        hash.add(block.data(), static_cast<std::size_t>(file.gcount()));
    }
    std::array<char, 48> text{};
    std::snprintf(text.data(), text.size(), "%lld-%016llx", static_cast<long long>(size),
                  static_cast<unsigned long long>(hash.value()));
    return text.data();
}

} // namespace yarngap
