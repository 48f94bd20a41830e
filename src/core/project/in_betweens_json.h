// In-between settings in a project file. Internal to project/.
#pragma once

#include "core/settings/in_betweens.h"

#include <nlohmann/json_fwd.hpp>

namespace yarngap {

nlohmann::json writeInBetweens(const InBetweens& settings);
/// Reads what writeInBetweens() wrote; fields that are missing keep their default. Not trusted: throws Error
/// for what is of the wrong kind, unknown or out of range.
InBetweens readInBetweens(const nlohmann::json& json);

} // namespace yarngap
