// Files of mends, to be looked through and changed by hand.
#pragma once

#include "core/settings/mend.h"

#include <filesystem>
#include <string>
#include <string_view>

namespace yarngap {

/// `{"mends": [{"from": 12, "to": 12, "name": "stiffer", "changes": {"stiffness": 75}}, …]}`; see
/// docs/formats.md.
std::string mendsText(const Mending& mending);

/// Reads what mendsText() writes; not trusted. Messages begin with `where`. Throws Error.
Mending parseMends(std::string_view content, const std::string& where);

/// parseMends() of a file of at most 256 MB. Throws Error.
Mending loadMends(const std::filesystem::path& file);

} // namespace yarngap
