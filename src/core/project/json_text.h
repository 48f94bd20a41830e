// JSON of files that are not trusted.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include <string_view>

namespace yarngap {

/// Parses `text`; what is no JSON, or nested more than 32 levels deep, comes back discarded
/// (`is_discarded()`). Takes time in proportion to the text.
nlohmann::json jsonFrom(std::string_view text);

} // namespace yarngap
