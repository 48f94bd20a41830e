// The speed lane of the thread chart: the curve, its keys, and dragging a stretch of it.

#include "app/theme.h"
#include "app/thread_chart.h"
#include "app/thread_chart_places.h"

#include <QKeyEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

using namespace chart;

void ThreadChart::fitSpeeds() {
    slowest_ = 0;
    fastest_ = 1;
    if (!map_) return;
    const double factor = timing_.speedOf(1).toDouble();
    for (const TimeKey& key : map_->keys())
        for (const double side : {-1e-6, 1e-6}) {
            const double speed = factor * map_->speedAt(key.output.toDouble() + side);
            slowest_ = std::min(slowest_, speed);
            fastest_ = std::max(fastest_, speed);
        }
}

double ThreadChart::yOfSpeed(double speed) const {
    const auto bent = [](double s) { return std::asinh(s / curveOfSpeeds); };
    const double share = (bent(speed) - bent(slowest_)) / (bent(fastest_) - bent(slowest_));
    return speedBottom - share * (speedBottom - speedTop);
}

double ThreadChart::speedAtY(double y) const {
    const auto bent = [](double s) { return std::asinh(s / curveOfSpeeds); };
    const double share = (speedBottom - y) / (speedBottom - speedTop);
    return std::sinh(bent(slowest_) + share * (bent(fastest_) - bent(slowest_))) * curveOfSpeeds;
}

void ThreadChart::drawSpeedLane(QPainter& p, const Visible& v) const {
    const double left = xOf(0);
    p.setFont(textFont(11));
    for (const double speed : {0.0, 1.0}) {
        const double y = yOfSpeed(speed);
        p.setPen(QPen(colour::seam, 1, Qt::DotLine));
        p.drawLine(QPointF(std::max(left, gutter), y), QPointF(width() - rightMargin, y));
    }
    const double factor = timing_.speedOf(1).toDouble();
    const auto speedAt = [&](double output) { return factor * map_->speedAt(output); };
    if (hovered_ && *hovered_ + 1 < static_cast<int>(map_->keys().size())) {
        const auto i = static_cast<std::size_t>(*hovered_);
        const double from = map_->keys()[i].output.toDouble();
        const double y = yOfSpeed(speedAt(from + 1e-6));
        p.setPen(QPen(colour::indigo, 6, Qt::SolidLine, Qt::RoundCap));
        p.setOpacity(0.25);
        p.drawLine(QPointF(xOf(from), y), QPointF(xOf(map_->keys()[i + 1].output.toDouble()), y));
        p.setOpacity(1);
    }
    // Constant segments are straight; eased ones are drawn in steps of two pixels. A jump at a key is
    // upright.
    QPainterPath curve;
    bool begun = false;
    const auto to = [&](double output, double speed) {
        const QPointF at(xOf(output), yOfSpeed(speed));
        if (begun)
            curve.lineTo(at);
        else
            curve.moveTo(at);
        begun = true;
    };
    const auto& keys = map_->keys();
    const double seenFrom = static_cast<double>(v.first) - 1;
    const double seenTo = static_cast<double>(v.last) + 1;
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        const double from = keys[i].output.toDouble();
        const double until = keys[i + 1].output.toDouble();
        if (until < seenFrom || from > seenTo) continue;
        to(from, speedAt(from + 1e-7));
        if (keys[i].after == Segment::eased)
            for (double o = std::max(from, seenFrom) + 2 / scale_; o < std::min(until, seenTo);
                 o += 2 / scale_)
                to(o, speedAt(o));
        to(until, speedAt(until - 1e-7));
    }
    p.setPen(QPen(colour::ink, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.setBrush(Qt::NoBrush);
    p.drawPath(curve);
    // Keys between the ends, and the speed of each stretch that has room for it.
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        const double from = keys[i].output.toDouble();
        const double until = keys[i + 1].output.toDouble();
        if (until < seenFrom || from > seenTo) continue;
        const double speed = speedAt(from + 1e-7);
        if (i > 0) {
            const QPointF at(xOf(from), yOfSpeed(speed));
            p.setPen(QPen(colour::ink, 1.4));
            p.setBrush(colour::paper);
            p.drawPolygon(
                QPolygonF{at + QPointF(0, -5), at + QPointF(5, 0), at + QPointF(0, 5), at + QPointF(-5, 0)});
        }
        if (keys[i].after == Segment::eased) continue;
        const QString words =
            keys[i].after == Segment::hold ? tr("freeze") : tr("%1 %").arg(std::round(speed * 1000) / 10);
        const double x = xOf(std::max(from, seenFrom));
        const double end = std::min(xOf(until), static_cast<double>(width()) - rightMargin);
        if (end - std::max(x, gutter) < p.fontMetrics().horizontalAdvance(words) + 16) continue;
        const double y = yOfSpeed(speed);
        p.setPen(colour::faint);
        const double above = y - 17 < speedTop - 8 ? y + 3 : y - 17;
        p.drawText(QRectF(std::max(x, gutter), above, end - std::max(x, gutter), 14), Qt::AlignCenter, words);
    }
}

std::optional<int> ThreadChart::stretchUnder(const QPointF& place) const {
    if (!plan_ || !map_ || place.y() > speedBottom + grasp || place.y() < speedTop - grasp)
        return std::nullopt;
    const double output = outputAt(place.x());
    const auto& keys = map_->keys();
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        if (keys[i].after != Segment::constant || output < keys[i].output.toDouble() ||
            output >= keys[i + 1].output.toDouble())
            continue;
        const double speed = timing_.speedOf(1).toDouble() * map_->speedAt(output);
        if (std::abs(yOfSpeed(speed) - place.y()) <= grasp) return static_cast<int>(i);
    }
    return std::nullopt;
}

void ThreadChart::mouseReleaseEvent(QMouseEvent*) {
    if (!drag_) return;
    drag_.reset();
    fitSpeeds();
    redraw();
}

void ThreadChart::keyPressEvent(QKeyEvent* press) {
    if (!drag_ || press->key() != Qt::Key_Escape) {
        QWidget::keyPressEvent(press);
        return;
    }
    const StretchDrag drag = *drag_;
    drag_.reset();
    Q_EMIT dragTakenBack(drag.before, drag.number);
    fitSpeeds();
    redraw();
}

} // namespace yarngap::app
