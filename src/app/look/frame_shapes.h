// The shapes that stand for kinds of output frames: shape first, colour second.
#pragma once

#include "core/time/frame_plan.h"

#include <QColor>
#include <QPainter>
#include <QPointF>

namespace yarngap::app {

[[nodiscard]] QColor colourOf(FrameKind kind);
/// Original: filled disc. Repeat: ring. Held: ring with a dot. Blend: half disc. Flow: lozenge.
void drawFrameShape(QPainter& painter, FrameKind kind, QPointF centre, double radius);

/// A small cross-stitch: mended.
void drawMendedMark(QPainter& painter, QPointF centre, double radius);

} // namespace yarngap::app
