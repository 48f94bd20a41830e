// Vectors by cells of 2 x 2 pixels.
#pragma once

#include "core/motion/vectors.h"

namespace yarngap {

/// Cells that so many pixels take. Cell 0 begins with pixel 0; of an odd picture the last cells have one
/// pixel.
constexpr int cellsOf(int pixels) {
    return (pixels + 1) / 2;
}

/// The vectors of cells, in cells: means over their pixels.
VectorField inCells(const VectorField& field);

/// The trust of cells: means over their pixels.
TrustField inCells(const TrustField& field);

} // namespace yarngap
