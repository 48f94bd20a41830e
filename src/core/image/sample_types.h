// From a picture's layout to the type of its samples, for code that works on all of them.
#pragma once

#include "core/image/pixel_layout.h"

#include <algorithm>
#include <cstdint>
#include <type_traits>

namespace yarngap {

/// Calls `visit` with a value of the layout's sample type: `std::uint8_t`, `std::uint16_t` or `float`.
///
///     withSampleType(image.layout(), [&](auto sample) { work<decltype(sample)>(image); });
template <typename Visit>
decltype(auto) withSampleType(const PixelLayout& layout, Visit visit) {
    if (layout.isFloat()) return visit(float{});
    if (layout.bytesPerSample() == 1) return visit(std::uint8_t{});
    return visit(std::uint16_t{});
}

/// A computed value as a sample: rounded and kept within 0 and `limit`, or as it is where samples are floats,
/// which may be negative or brighter than white.
template <typename Sample>
Sample sampleOf(float value, [[maybe_unused]] float limit) {
    if constexpr (std::is_floating_point_v<Sample>)
        return value;
    else
        return static_cast<Sample>(std::clamp(value, 0.0F, limit) + 0.5F);
}

} // namespace yarngap
