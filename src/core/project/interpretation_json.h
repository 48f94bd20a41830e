// An interpretation as JSON, within a project. Internal to project/.
#pragma once

#include "core/media/interpretation.h"

#include <nlohmann/json_fwd.hpp>

namespace yarngap {

/// Throws Error naming the field; what it gives is in range but not yet checked against a file.
Interpretation readInterpretation(const nlohmann::json& json);
nlohmann::json writeInterpretation(const Interpretation& interpretation);

} // namespace yarngap
