// Time maps in project files and on the command line: a list of keys.
#pragma once

#include "core/time/map_edits.h"

#include <nlohmann/json_fwd.hpp>

namespace yarngap {

/// [{"output": "40/3", "position": "10", "segment": "eased", "speed": "1/4"}, …]; `segment` is left out where
/// constant, `speed` where it follows from the neighbours.
nlohmann::json writeKeys(const TimeKeys& keys);
/// Throws Error naming the key.
TimeKeys readKeys(const nlohmann::json& json);

} // namespace yarngap
