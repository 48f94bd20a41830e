// A picture by cells of 2 x 2 pixels.
#pragma once

#include "core/image/image.h"
#include "core/motion/cell_vectors.h"

#include <array>
#include <cstdint>
#include <vector>

namespace yarngap {

/// What motion is judged by: means over the pixels of each cell, row by row.
struct CellPicture {
    int width = 0; ///< in cells, and so is the height
    int height = 0;
    std::vector<float> luma;                         ///< or green, which carries most of it; 0 to 1
    std::array<std::vector<std::uint8_t>, 2> colour; ///< blueness and redness, 128 being none; none of grey

    [[nodiscard]] bool hasColour() const { return !colour[0].empty(); }
};

/// Colour is planes U and V of YUV, (B − G) / 2 and (R − G) / 2 of RGB, in 8-bit steps. Scene light is
/// encoded first.
CellPicture cellPicture(const Image& image);

} // namespace yarngap
