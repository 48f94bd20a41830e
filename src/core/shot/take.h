// Settings of in-betweens saved under a name, to compare others with.
#pragma once

#include "core/settings/in_betweens.h"
#include "core/time/frame_plan.h"

#include <string>

namespace yarngap {

/// How a shot's in-betweens were made once. A plain value.
struct Take {
    std::string name;
    Method method = Method::flow;
    InBetweens inBetweens;

    friend bool operator==(const Take&, const Take&) = default;
};

/// More than anybody compares; what a project file may hold.
inline constexpr std::size_t mostTakes = 200;

} // namespace yarngap
