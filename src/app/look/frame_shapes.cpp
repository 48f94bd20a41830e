#include "app/look/frame_shapes.h"

#include "app/look/theme.h"

#include <QPolygonF>

namespace yarngap::app {

QColor colourOf(FrameKind kind) {
    switch (kind) {
    case FrameKind::original:
        return shades().ink;
    case FrameKind::repeat:
    case FrameKind::held:
        return shades().slate;
    case FrameKind::blend:
        return shades().flax;
    case FrameKind::flow:
        return shades().plum;
    }
    return shades().ink;
}

void drawFrameShape(QPainter& painter, FrameKind kind, QPointF centre, double radius) {
    const QColor colour = colourOf(kind);
    switch (kind) {
    case FrameKind::original:
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        painter.drawEllipse(centre, radius, radius);
        break;
    case FrameKind::repeat:
    case FrameKind::held:
        painter.setPen(QPen(colour, 1.4));
        painter.setBrush(shades().cloth);
        painter.drawEllipse(centre, radius - 0.4, radius - 0.4);
        if (kind == FrameKind::held) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            painter.drawEllipse(centre, radius * 0.35, radius * 0.35);
        }
        break;
    case FrameKind::blend: {
        const QRectF box(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius);
        painter.setPen(QPen(colour, 1.2));
        painter.setBrush(shades().cloth);
        painter.drawEllipse(box);
        painter.setBrush(colour);
        painter.drawPie(box, 90 * 16, 180 * 16);
        break;
    }
    case FrameKind::flow: {
        const double r = radius * 1.2;
        const QPolygonF lozenge{{centre.x(), centre.y() - r},
                                {centre.x() + r, centre.y()},
                                {centre.x(), centre.y() + r},
                                {centre.x() - r, centre.y()}};
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        painter.drawPolygon(lozenge);
        break;
    }
    }
}

void drawMendedMark(QPainter& painter, QPointF centre, double radius) {
    painter.setPen(QPen(shades().indigo, 1.4));
    painter.drawLine(centre - QPointF(radius, radius), centre + QPointF(radius, radius));
    painter.drawLine(centre + QPointF(-radius, radius), centre + QPointF(radius, -radius));
}

} // namespace yarngap::app
