// Names that the core gives, in the language of the window.
#pragma once

#include <QString>

#include <string_view>

namespace yarngap::app {

/// A name such as name(Method) gives. The core knows no language; what it tells in whole sentences stays
/// English.
[[nodiscard]] QString named(std::string_view name);

} // namespace yarngap::app
