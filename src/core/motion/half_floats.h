// What a half float holds, in loops over many.
#pragma once

#include <algorithm>
#include <bit>
#include <cstdint>

namespace yarngap {

/// Rounds to what a half float holds (11 significant bits), halves to even; values below 2^-14, and what is
/// not a number, become 0; those beyond 65504 become that.
inline float roundedToHalf(float value) {
    // As integers, which compare like the floats they are, so that loops do several at a time.
    constexpr std::int32_t smallest = 0x38800000; // 2^-14
    constexpr std::int32_t largest = 0x477fe000;  // 65504
    constexpr std::int32_t infinity = 0x7f800000;
    const auto bits = std::bit_cast<std::int32_t>(value);
    const std::int32_t magnitude = bits & 0x7fffffff;
    const std::int32_t kept = magnitude < smallest || magnitude > infinity ? 0 : magnitude;
    const std::int32_t within = std::min(kept, largest);
    const std::int32_t rounded = (within + 0x0fff + ((within >> 13) & 1)) & ~0x1fff;
    const std::int32_t sign = kept == 0 ? 0 : bits & ~0x7fffffff;
    return std::bit_cast<float>(rounded | sign);
}

} // namespace yarngap
