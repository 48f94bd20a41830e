// Which version of Yarn Gap this is.
#pragma once

#include <string_view>

namespace yarngap {

/// "1.2.3", as the first heading of CHANGELOG.md says.
std::string_view version();

} // namespace yarngap
