#include "app/look/transport_icons.h"

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
    QPainterPath line;
    const QPen thread(Qt::white, 3.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin);
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
    case TransportIcon::loop: // a thread that comes round
        line.moveTo(28, 11);
        line.cubicTo(2, -2, 2, 42, 20, 33);
        line.cubicTo(34, 27, 36, 18, 30, 10);
        p.strokePath(line, thread);
        triangle(27, 6, true);
        break;
    case TransportIcon::thereAndBack:
        p.fillRect(QRectF(11, 18.5, 18, 3), Qt::white);
        triangle(9, 7, false);
        triangle(31, 7, true);
        break;
    case TransportIcon::readyThenPlay: // over a stitch line
        p.translate(0, -5);
        triangle(20, 11, true);
        for (int i = 0; i < 4; ++i)
            p.fillRect(QRectF(4 + 8.5 * i, 35, 6, 3.5), Qt::white);
        break;
    case TransportIcon::sound: // a loudspeaker
        line.moveTo(5, 15);
        line.lineTo(11, 15);
        line.lineTo(20, 7);
        line.lineTo(20, 33);
        line.lineTo(11, 25);
        line.lineTo(5, 25);
        line.closeSubpath();
        p.drawPath(line);
        p.setPen(QPen(Qt::white, 3, Qt::SolidLine, Qt::RoundCap));
        p.setBrush(Qt::NoBrush);
        p.drawArc(QRectF(17, 13, 12, 14), -60 * 16, 120 * 16);
        p.drawArc(QRectF(14, 8, 22, 24), -60 * 16, 120 * 16);
        break;
    }
    p.end();
    pixmap.setDevicePixelRatio(2);
    return QIcon(pixmap);
}

void prepareTransportButton(QToolButton& button, TransportIcon icon, const QString& tip) {
    button.setIcon(transportIcon(icon));
    button.setIconSize({20, 20});
    button.setToolTip(tip);
    button.setAccessibleName(tip);
    button.setAutoRaise(true);
    button.setStyleSheet(QStringLiteral(
        "QToolButton { border: 1px solid transparent; border-radius: 12px; padding: 3px; }"
        "QToolButton:hover { background: #7C7C7C; } QToolButton:checked { background: #2E3033; }"
        "QToolButton:focus { border-color: white; }"));
}

} // namespace yarngap::app
