// What went wrong when a file could not be written, in words.
#pragma once

#include <filesystem>
#include <string>

namespace yarngap {

/// The sentence for a file that could not be written, by the errno value of the call that failed.
[[nodiscard]] std::string writeFailure(const std::filesystem::path& target, int errnoValue);

/// The sentence for any error: that of an Error as it is; memory that ran out, in whatever library, as such.
[[nodiscard]] std::string sentenceOf(const std::exception& error);

inline constexpr const char* outOfMemory =
    "There is not enough memory for this. Close other programs, or use a smaller shot.";

} // namespace yarngap
