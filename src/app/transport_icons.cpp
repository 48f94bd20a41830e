#include "app/transport_icons.h"

#include <QPainter>
#include <QPainterPath>
#include <QPixmap>

namespace yarngap::app {

QIcon transportIcon(TransportIcon icon) {
    constexpr int size = 40; // drawn at twice the size for dense screens
    QPixmap pixmap(size, size);
    pixmap.fill(Qt::transparent);
    QPainter p(&pixmap);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(Qt::white);
    const auto triangle = [&](double x, double half, bool right) {
        QPainterPath path;
        const double d = right ? 1 : -1;
        path.moveTo(x - d * half * 0.8, 20 - half);
        path.lineTo(x + d * half * 0.9, 20);
        path.lineTo(x - d * half * 0.8, 20 + half);
        path.closeSubpath();
        p.drawPath(path);
    };
    switch (icon) {
    case TransportIcon::play:
        triangle(20, 15, true);
        break;
    case TransportIcon::pause:
        p.drawRect(QRectF(10, 7, 7, 26));
        p.drawRect(QRectF(23, 7, 7, 26));
        break;
    case TransportIcon::stepBack:
        triangle(20, 9, false);
        break;
    case TransportIcon::stepForward:
        triangle(20, 9, true);
        break;
    case TransportIcon::previousOriginal: // towards the filled disc that stands for an original
        triangle(27, 9, false);
        p.drawEllipse(QPointF(10, 20), 5, 5);
        break;
    case TransportIcon::nextOriginal:
        triangle(13, 9, true);
        p.drawEllipse(QPointF(30, 20), 5, 5);
        break;
    }
    p.end();
    pixmap.setDevicePixelRatio(2);
    return QIcon(pixmap);
}

} // namespace yarngap::app
