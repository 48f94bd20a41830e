#include "core/decimal.h"

#include <array>
#include <charconv>

namespace yarngap {

std::string decimal(double value, int places) {
    std::array<char, 400> text{}; // the largest double has 309 digits
    const auto end =
        std::to_chars(text.data(), text.data() + text.size(), value, std::chars_format::fixed, places).ptr;
    return {text.data(), end};
}

} // namespace yarngap
