// The lane on top: the speed curve or the position curve, with its keys.

#include "app/chart/chart_painting.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

using namespace chart;

namespace {

/// Calls `act` for all places between `from` and `to` that lie a multiple of `by` after `from`.
template <typename Act>
void forEachStep(double from, double to, double by, const Act& act) {
    const auto count = static_cast<int>(std::ceil((to - from) / by));
    for (int i = 1; i < count; ++i)
        act(from + i * by);
}

} // namespace

void ChartPainting::drawSpeedLane(QPainter& p, const Visible& v) {
    const double left = xOf(0);
    p.setFont(textFont(11));
    for (const double speed : {0.0, 1.0}) {
        const double y = yOfSpeed(speed);
        p.fillRect(QRectF(std::max(left, gutter), std::round(y),
                          chartWidth() - rightMargin - std::max(left, gutter), 1),
                   shades().seam);
    }
    const double factor = timing_.speedOf(1).toDouble();
    const auto speedAt = [&](double output) { return factor * map_->speedAt(output); };
    if (hovered_ && *hovered_ + 1 < static_cast<int>(map_->keys().size())) {
        const auto i = static_cast<std::size_t>(*hovered_);
        const double from = map_->keys()[i].output.toDouble();
        const double y = yOfSpeed(speedAt(from + 1e-6));
        p.setPen(QPen(shades().indigo, 6, Qt::SolidLine, Qt::RoundCap));
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
            forEachStep(std::max(from, seenFrom), std::min(until, seenTo), 2 / scale_,
                        [&](double o) { to(o, speedAt(o)); });
        to(until, speedAt(until - 1e-7));
    }
    // A curve closer than its own width needs no smooth joins, which cost most of its time.
    const bool close = curve.elementCount() > chartWidth() / 3;
    p.setRenderHint(QPainter::Antialiasing, !close);
    p.setPen(close ? QPen(shades().ink, 1)
                   : QPen(shades().ink, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.setBrush(Qt::NoBrush);
    p.drawPath(curve);
    p.setRenderHint(QPainter::Antialiasing);
    drawSpeeds(p, v);
}

/// The speed of each stretch that has room for it.
void ChartPainting::drawSpeeds(QPainter& p, const Visible& v) {
    const double factor = timing_.speedOf(1).toDouble();
    const auto& keys = map_->keys();
    const double seenFrom = static_cast<double>(v.first) - 1;
    const double seenTo = static_cast<double>(v.last) + 1;
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        const double from = keys[i].output.toDouble();
        const double until = keys[i + 1].output.toDouble();
        if (until < seenFrom || from > seenTo || keys[i].after == Segment::eased) continue;
        const double x = xOf(std::max(from, seenFrom));
        const double end = std::min(xOf(until), static_cast<double>(chartWidth()) - rightMargin);
        if (end - std::max(x, gutter) < 30) continue; // before the words are measured, which takes longer
        const double speed = factor * map_->speedAt(from + 1e-7);
        const QString words =
            keys[i].after == Segment::hold
                ? tr("freeze")
                : tr("%1 %").arg(shownShortly(speed * 100, 1)).replace(QLatin1Char('-'), QStringLiteral("−"));
        const double wide = p.fontMetrics().horizontalAdvance(words);
        if (end - std::max(x, gutter) < wide + 16) continue;
        const double y = yOfSpeed(speed);
        p.setPen(shades().faint);
        const double above = y - 17 < speedTop - 8 ? y + 3 : y - 17;
        const double middle = (std::max(x, gutter) + end) / 2;
        speeds_.emplace_back(QRectF(middle - wide / 2, above, wide, 14), words);
        p.drawText(QRectF(std::max(x, gutter), above, end - std::max(x, gutter), 14), Qt::AlignCenter, words);
    }
}

void ChartPainting::drawPositionLane(QPainter& p, const Visible& v) const {
    p.setFont(textFont(11));
    for (const std::int64_t frame : {timing_.from, timing_.to}) {
        const double y = yOfPosition(static_cast<double>(frame));
        p.fillRect(QRectF(gutter, std::round(y), chartWidth() - rightMargin - gutter, 1), shades().seam);
        p.setPen(shades().faint);
        p.drawText(QRectF(chartWidth() - rightMargin - 60, frame == timing_.from ? y - 15 : y + 1, 60, 14),
                   Qt::AlignRight, QString::number(frame));
    }
    QPainterPath curve;
    const double from = std::max(0.0, static_cast<double>(v.first) - 1);
    const double until = std::min(map_->length().toDouble(), static_cast<double>(v.last) + 1);
    curve.moveTo(xOf(from), yOfPosition(map_->positionAt(from)));
    forEachStep(from, until, 2 / scale_,
                [&](double o) { curve.lineTo(xOf(o), yOfPosition(map_->positionAt(o))); });
    curve.lineTo(xOf(until), yOfPosition(map_->positionAt(until - 1e-9)));
    p.setPen(QPen(shades().ink, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.setBrush(Qt::NoBrush);
    p.drawPath(curve);
}

void ChartPainting::drawKeys(QPainter& p, const Visible& v) const {
    const auto& keys = map_->keys();
    double lastX = -1e9; // keys that would hide each other are drawn once
    for (int i = 1; i + 1 < static_cast<int>(keys.size()); ++i) {
        const double output = keys[static_cast<std::size_t>(i)].output.toDouble();
        if (output < static_cast<double>(v.first) - 1 || output > static_cast<double>(v.last) + 1) continue;
        const bool chosen = isChosen(i);
        if (xOf(output) - lastX < 4 && !chosen) continue;
        lastX = xOf(output);
        const QPointF at = placeOfKey(i);
        if (isJump(i) && chosen_.size() == 1 && chosen) { // to be drawn apart into an ease
            p.setPen(QPen(shades().indigo, 1));
            p.drawLine(at - QPointF(easeReach, 0), at + QPointF(easeReach, 0));
            p.setBrush(shades().paper);
            for (const double side : {-easeReach, easeReach})
                p.drawEllipse(at + QPointF(side, 0), 3.5, 3.5);
        }
        p.setPen(QPen(chosen ? shades().indigo : shades().ink, chosen ? 2 : 1.4));
        p.setBrush(shades().paper);
        p.drawPolygon(
            QPolygonF{at + QPointF(0, -5), at + QPointF(5, 0), at + QPointF(0, 5), at + QPointF(-5, 0)});
    }
}

} // namespace yarngap::app
