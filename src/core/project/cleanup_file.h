// Files of decisions about source frames, to be looked through and changed by hand.
#pragma once

#include "core/cleaning/cleanup.h"

#include <filesystem>
#include <string>
#include <string_view>

namespace yarngap {

/// `{"decisions": [{"frame": 12, "do": "pass-over", "certainty": 0.98}, …]}`; see docs/formats.md.
std::string cleanupText(const Cleanup& cleanup);

/// Reads what cleanupText() writes, in any order of frames; not trusted. Messages begin with `where`. Throws
/// Error, also for two decisions of one sort about a frame.
Cleanup parseCleanup(std::string_view content, const std::string& where);

/// parseCleanup() of a file of at most 256 MB. Throws Error.
Cleanup loadCleanup(const std::filesystem::path& file);

} // namespace yarngap
