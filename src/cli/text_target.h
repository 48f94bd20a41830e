// Where a command writes text to.
#pragma once

#include <filesystem>
#include <string>

namespace yarngap::cli {

/// Writes a file, or into a pipe or device that was named as one. Throws Error.
void writeText(const std::filesystem::path& target, const std::string& content);

} // namespace yarngap::cli
