// Painted paper: textures and cut-outs with a lit edge and a shadow.
#pragma once

#include <QBrush>
#include <QColor>
#include <QImage>
#include <QPainter>
#include <QPainterPath>

#include <cstdint>

namespace yarngap::theatre {

/// Same numbers everywhere for the same seed and place, 0 to 1.
double hashNoise(std::uint32_t seed, int x, int y);

/// Smooth noise of several octaves that repeats every `period` cells, 0 to 1.
double paintNoise(std::uint32_t seed, double x, double y, int period);

/// Repeating 256 x 256 sheet of painted paper: brush streaks, fibres and blots around `colour`.
QImage paperSheet(const QColor& colour, std::uint32_t seed, double contrast = 1.0);

/// A painted sheet with its brush, made once and used for every frame.
struct Paper {
    explicit Paper(const QColor& colour, std::uint32_t seed, double contrast = 1.0);
    QBrush brush;
    QColor edge; ///< lit cut edge
};

/// Fills a shape cut from `paper`, with its lit edge.
void drawCutout(QPainter& painter, const QPainterPath& shape, const Paper& paper);

/// A wide still layer: the shape cut from `paper`, its soft shadow on what lies behind, transparent
/// elsewhere.
QImage cutoutLayer(int width, int height, const QPainterPath& shape, const Paper& paper, double shadow);

} // namespace yarngap::theatre
