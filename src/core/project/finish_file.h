// Files of a finish, to be given to other shots and changed by hand.
#pragma once

#include "core/finish/finish.h"

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// `{"frame": {"size": [1920, 1080]}, "hideEdges": {"scale": 1.06}, …}`; see docs/formats.md.
std::string finishText(const Finish& finish);

/// Reads what finishText() writes; not trusted. Messages begin with `where`. Throws Error.
Finish parseFinish(std::string_view content, const std::string& where);
/// parseFinish() of a file of at most 256 MB. Throws Error.
Finish loadFinish(const std::filesystem::path& file);

/// Tone alone: `{"tone": [{"black": 0.05, …}, …]}`, or one `{"black": 0.05, …}`. Throws Error.
std::vector<ToneKey> parseTone(std::string_view content, const std::string& where);
std::vector<ToneKey> loadTone(const std::filesystem::path& file);

} // namespace yarngap
