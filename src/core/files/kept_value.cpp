#include "core/files/kept_value.h"

#include "core/files/new_file.h"

#include <xxhash.h>

#include <array>
#include <charconv>
#include <fstream>
#include <iterator>

namespace yarngap {

namespace {

constexpr std::size_t digits = 16;

/// Sixteen hexadecimal digits of XXH3.
std::string checksumOf(std::string_view text) {
    std::array<char, digits> buffer{};
    const auto end =
        std::to_chars(buffer.data(), buffer.data() + buffer.size(), XXH3_64bits(text.data(), text.size()), 16)
            .ptr;
    const std::string number(buffer.data(), end);
    return std::string(digits - number.size(), '0') + number;
}

} // namespace

void writeKept(const std::filesystem::path& file, const std::string& key, std::string_view bytes) {
    std::string content = key;
    content += '\n';
    content += bytes;
    writeWhole(file, checksumOf(content) + content);
}

std::optional<std::string> readKept(const std::filesystem::path& file, const std::string& key) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return std::nullopt;
    const std::string all((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
    if (all.size() < digits + key.size() + 1) return std::nullopt;
    const std::string_view content = std::string_view(all).substr(digits);
    if (std::string_view(all).substr(0, digits) != checksumOf(content)) return std::nullopt;
    if (!content.starts_with(key) || content[key.size()] != '\n') return std::nullopt;
    return std::string(content.substr(key.size() + 1));
}

} // namespace yarngap
