// Numbers as text, the same in every language.
#pragma once

#include <string>

namespace yarngap {

/// `value` with `places` decimals behind a point: decimal(23.976, 2) is "23.98". printf and its relatives
/// write a comma where the user's language does.
std::string decimal(double value, int places);

} // namespace yarngap
