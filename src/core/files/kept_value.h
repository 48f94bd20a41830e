// A value in a file of its own, for values found out once and wanted again.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace yarngap {

/// Writes bytes with their key and a checksum of both. Throws Error, and then leaves nothing.
void writeKept(const std::filesystem::path& file, const std::string& key, std::string_view bytes);
/// The bytes kept under `key`; nothing when the file is not there, is damaged, or holds another key.
std::optional<std::string> readKept(const std::filesystem::path& file, const std::string& key);

} // namespace yarngap
