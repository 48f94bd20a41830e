// A line across a picture, with one version on each side.
#pragma once

#include <QLineF>
#include <QPainter>
#include <QPainterPath>
#include <QPointF>
#include <QRectF>

namespace yarngap::app {

/// Where the line of a wipe lies, and what can be taken hold of to move it.
class Wipe {
  public:
    enum class Handle { none, middle, end };

    /// The line, as far as it lies inside `place`, or beyond.
    [[nodiscard]] QLineF line(const QRectF& place) const;
    /// The part of `place` to the right of the line (below a level one).
    [[nodiscard]] QPainterPath otherSide(const QRectF& place) const;
    [[nodiscard]] Handle handleAt(const QRectF& place, QPointF pointer) const;
    /// Moves the line, or turns it about its middle, so that the handle comes to the pointer.
    void drag(const QRectF& place, Handle handle, QPointF pointer);
    void draw(QPainter& painter, const QRectF& place) const;
    [[nodiscard]] QPointF middle(const QRectF& place) const;
    [[nodiscard]] QPointF end(const QRectF& place) const;

  private:
    QPointF at_{0.5, 0.5}; // across and down, in shares of the picture
    double angle_ = 90;    // degrees from level; 90 stands upright
};

} // namespace yarngap::app
