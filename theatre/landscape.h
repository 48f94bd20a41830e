// Pieces that several shots build their marsh from.
#pragma once

#include "theatre/paper.h"

#include <QPainterPath>

namespace yarngap::theatre {

/// Rolling ground: closed at `height`, its edge around `level`, with hills of `swell` pixels.
QPainterPath groundPath(double width, double height, double level, double swell, double wavelength,
                        std::uint32_t seed);

/// A clump of reeds and bulrushes rooted at the bottom of a `width` x `height` picture.
QImage reedClump(int width, int height, int blades, const Paper& leaf, const Paper& head, std::uint32_t seed);

/// Draws a clump with its root at (`x`, `bottom`), bent sideways by `sway` (a share of its height).
void drawSwaying(QPainter& painter, const QImage& clump, double x, double bottom, double sway);

/// A sky washed from `top` to `horizon`, with the grain of the sheet.
QImage skySheet(int width, int height, const QColor& top, const QColor& horizon, std::uint32_t seed);

} // namespace yarngap::theatre
