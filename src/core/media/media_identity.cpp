#include "core/media/media_identity.h"

#include "core/files/local_file.h"

#include <xxhash.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <vector>

namespace yarngap {

namespace {

constexpr std::string_view form = "v2-";

std::string hexadecimal(std::uint64_t value) {
    std::array<char, 16> digits{};
    const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), value, 16).ptr;
    const std::string text(digits.data(), end);
    return std::string(digits.size() - text.size(), '0') + text;
}

std::uint64_t hashOfNumbers(const std::vector<std::uint64_t>& numbers) {
    return hashOf(std::as_bytes(std::span(numbers)));
}

/// The first, middle and last 64 KB; all of it when it is shorter.
std::uint64_t hashOfParts(const std::filesystem::path& path) {
    constexpr std::int64_t part = 64 << 10;
    LocalFile file(path, std::make_shared<ReadingThread>());
    std::vector<std::byte> block(static_cast<std::size_t>(part));
    std::vector<std::uint64_t> hashes;
    const std::int64_t size = file.bytes();
    for (const std::int64_t at : {std::int64_t{0}, size / 2, std::max<std::int64_t>(0, size - part)})
        hashes.push_back(hashOf(std::span(block).first(file.read(at, block))));
    return hashOfNumbers(hashes);
}

} // namespace

std::uint64_t hashOf(std::span<const std::byte> bytes) {
    return XXH3_64bits(bytes.data(), bytes.size());
}

std::string mediaIdentity(const MediaIndex& index) {
    std::vector<std::uint64_t> parts{index.codecHash};
    if (index.pictures.empty()) {
        for (const PacketEntry& p : index.packets)
            parts.push_back(p.hash);
        for (const std::int32_t packet : index.displayPacket) // the same bytes in another order
            parts.push_back(static_cast<std::uint64_t>(packet));
    } else {
        std::vector<std::size_t> there;
        for (std::size_t n = 0; n < index.pictures.size(); ++n) {
            parts.push_back(static_cast<std::uint64_t>(index.packets[n].size));
            if (!index.pictures[n].empty()) there.push_back(n);
        }
        if (!there.empty())
            for (const std::size_t n : {there.front(), there[there.size() / 2], there.back()})
                parts.push_back(hashOfParts(index.pictures[n]));
    }
    return std::string(form) + std::to_string(index.facts.fileBytes) + '-' +
           hexadecimal(hashOfNumbers(parts));
}

bool areComparable(std::string_view identity, std::string_view other) {
    return identity.starts_with(form) && other.starts_with(form);
}

std::string mediaEdition(const MediaIndex& index) {
    if (index.pictures.empty()) return index.identity;
    std::vector<std::uint64_t> parts;
    for (const FileEdition& e : index.pictureEditions)
        for (const std::int64_t number : {e.bytes, e.modified, e.changed})
            parts.push_back(static_cast<std::uint64_t>(number));
    return index.identity + '@' + hexadecimal(hashOfNumbers(parts));
}

} // namespace yarngap
