// How a camera's speed differs at the two frames of a gap from its mean between them.
#pragma once

#include <cstdint>

namespace yarngap {

/// Of gap `gap`, between source frames gap and gap + 1: how fast the whole picture moves at its first and at
/// its last frame, less how fast it does on the mean between them; pixels of the full picture in the time of
/// a gap, x right, y down. All zeros: it moves evenly.
struct Shake {
    std::int64_t gap = 0;
    float firstX = 0, firstY = 0;
    float lastX = 0, lastY = 0;
    /// How far blur tells it, 0 to 1, where what the gaps beside tell counts for the rest.
    float told = 1;

    friend bool operator==(const Shake&, const Shake&) = default;
};

/// The same in a picture `scale` times as wide.
[[nodiscard]] constexpr Shake scaled(const Shake& shake, float scale) {
    return {shake.gap,           shake.firstX * scale, shake.firstY * scale,
            shake.lastX * scale, shake.lastY * scale,  shake.told};
}

} // namespace yarngap
