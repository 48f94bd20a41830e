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

/// Whether `vectors` are by cells of pictures this large, and not by pixels.
bool areByCells(const Vectors& vectors, int width, int height);

/// `vectors` by pixels of a picture this large; of those by cells, each pixel has those of its cell.
Vectors byPixels(const Vectors& vectors, int width, int height);

} // namespace yarngap
