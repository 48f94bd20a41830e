// What can be laid over the picture on the stage.
#pragma once

#include "app/playing/preview.h"

#include <QImage>
#include <QPainter>
#include <QRectF>
#include <QString>

namespace yarngap::app {

enum class Overlay {
    none,
    vectors,    ///< arrows from where things come to where they go
    trust,      ///< what is not trusted, in madder
    difference, ///< what neither source frame beside it shows at that place
    madeFrom    ///< which source frame pixels come from
};

/// One line that says how to read an overlay over this frame.
QString legendOf(Overlay overlay, const PreviewInsight& insight);

/// Draws `overlay` over the picture that lies at `place`, as far as `clip` shows it. `pixelSize`: screen
/// pixels a pixel of the shot takes across and down.
void drawOverlay(QPainter& painter, Overlay overlay, const PreviewInsight& insight, const QRectF& place,
                 const QRectF& clip);

/// The colour of a direction: the wheel of the arrows.
QColor colourOfDirection(double x, double y);

/// What is known about pixel (x, y) of a frame: its samples, its motion, its trust, where it comes from.
/// `before` and `after` are the source frames it lies between.
QString probeText(const FrameInsight& frame, int x, int y);

} // namespace yarngap::app
