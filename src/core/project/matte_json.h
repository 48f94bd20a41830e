// A matte in a project file.
#pragma once

#include "core/synthesis/matte.h"

#include <nlohmann/json_fwd.hpp>

namespace yarngap {

/// {"feather": 4, "onTop": true, "keys": [{"frame": 12, "points": [[x, y], …]}, …]} or with "pictures", a
/// file relative to `folder`, instead of keys.
nlohmann::json writeMatte(const Matte& matte, const std::filesystem::path& folder);
/// Throws Error, with what is wrong.
Matte readMatte(const nlohmann::json& json, const std::filesystem::path& folder);

} // namespace yarngap
