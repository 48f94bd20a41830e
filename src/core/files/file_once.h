// Files that several programs may want to make at a time, of which the first one's counts.
#pragma once

#include <filesystem>
#include <string_view>

namespace yarngap {

/// Writes `content` as `target` unless that is there; false when it was, and then it stays. Whole or not at
/// all, also where several machines try at a time. Throws Error.
bool writeOnce(const std::filesystem::path& target, std::string_view content);

} // namespace yarngap
