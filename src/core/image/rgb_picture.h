// Screen RGB from a shot's own planes.
#pragma once

#include "core/image/image.h"

#include <cstddef>
#include <cstdint>
#include <vector>

namespace yarngap {

/// Packed 8-bit picture for the screen, bytes B G R A in memory (A always 255), rows `stride` bytes apart.
struct RgbPicture {
    int width = 0;
    int height = 0;
    std::size_t stride = 0;
    std::vector<std::uint8_t> bgra;
};

/// Converts with the picture's own matrix and range (BT.709 assumed from 720 lines up, BT.601 below, when
/// untagged), primaries and transfer (see ScreenColour), scaled to `width` x `height` with area averaging or
/// bicubic interpolation. Alpha is ignored.
RgbPicture toScreenRgb(const Image& image, const ColourTags& tags, int width, int height);

/// Largest size with the display aspect of `width` x `height` pixels of aspect `sar` inside the box; never
/// below 1 x 1.
struct Size {
    int width = 0;
    int height = 0;
    friend bool operator==(const Size&, const Size&) = default;
};
Size fitted(int width, int height, double sar, Size box);

} // namespace yarngap
