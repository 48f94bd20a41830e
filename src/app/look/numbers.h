// Numbers as the user's locale writes them: 12,5 or 12.5. Files and JSON have a point always; see
// core/decimal.h.
#pragma once

#include <QString>

#include <string_view>

namespace yarngap::app {

/// With so many decimals, and nothing between thousands.
[[nodiscard]] QString shownNumber(double value, int decimals);
/// With as many decimals as it takes, at most `decimals`.
[[nodiscard]] QString shownShortly(double value, int decimals);
/// A number that the core has written with a point, such as "23.976" or "12.5 %".
[[nodiscard]] QString shownDecimal(std::string_view written);

} // namespace yarngap::app
