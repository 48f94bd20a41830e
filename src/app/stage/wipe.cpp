#include "app/stage/wipe.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yarngap::app {

namespace {

constexpr double reach = 12;   // screen pixels from a handle that still take hold of it
constexpr double spread = 70;  // from the middle to the end's handle
constexpr double beyond = 2e4; // longer than any screen

QPointF along(double degrees) {
    return {std::cos(degrees * std::numbers::pi / 180), -std::sin(degrees * std::numbers::pi / 180)};
}

} // namespace

QPointF Wipe::middle(const QRectF& place) const {
    return {place.left() + at_.x() * place.width(), place.top() + at_.y() * place.height()};
}

QPointF Wipe::end(const QRectF& place) const {
    return middle(place) + spread * along(angle_);
}

QLineF Wipe::line(const QRectF& place) const {
    return {middle(place) - beyond * along(angle_), middle(place) + beyond * along(angle_)};
}

QPainterPath Wipe::otherSide(const QRectF& place) const {
    const QLineF edge = line(place);
    const QPointF right = 2 * beyond * along(angle_ - 90);
    QPainterPath half;
    half.moveTo(edge.p1());
    half.lineTo(edge.p2());
    half.lineTo(edge.p2() + right);
    half.lineTo(edge.p1() + right);
    half.closeSubpath();
    QPainterPath all;
    all.addRect(place);
    return all.intersected(half);
}

Wipe::Handle Wipe::handleAt(const QRectF& place, QPointF pointer) const {
    const auto near = [&](QPointF handle) {
        return std::hypot(pointer.x() - handle.x(), pointer.y() - handle.y()) <= reach;
    };
    if (near(end(place))) return Handle::end;
    if (near(middle(place))) return Handle::middle;
    const QPointF from = pointer - middle(place);
    const QPointF across = along(angle_ - 90);
    // The line itself is as good as its middle.
    return std::abs(from.x() * across.x() + from.y() * across.y()) <= reach / 2 ? Handle::middle
                                                                                : Handle::none;
}

void Wipe::drag(const QRectF& place, Handle handle, QPointF pointer) {
    if (handle == Handle::middle) {
        at_ = {std::clamp((pointer.x() - place.left()) / place.width(), 0.0, 1.0),
               std::clamp((pointer.y() - place.top()) / place.height(), 0.0, 1.0)};
    } else if (handle == Handle::end) {
        const QPointF to = pointer - middle(place);
        if (std::hypot(to.x(), to.y()) < 1) return;
        angle_ = std::atan2(-to.y(), to.x()) * 180 / std::numbers::pi;
    }
}

void Wipe::draw(QPainter& p, const QRectF& place) const {
    p.setRenderHint(QPainter::Antialiasing);
    for (const QPen& pen : {QPen(QColor(0, 0, 0, 120), 3), QPen(Qt::white, 1)}) {
        p.setPen(pen);
        p.drawLine(line(place));
    }
    p.setPen(QPen(QColor(0x26, 0x28, 0x2B), 1.5));
    p.setBrush(Qt::white);
    p.drawEllipse(middle(place), 6, 6);
    p.drawEllipse(end(place), 4, 4);
}

} // namespace yarngap::app
