// The speed lane of the thread chart: the curve, its keys, and dragging a stretch of it.

#include "app/look/theme.h"
#include "app/chart/thread_chart.h"
#include "app/chart/thread_chart_places.h"

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
    return at_.speedBottom - share * (at_.speedBottom - speedTop);
}

double ThreadChart::speedAtY(double y) const {
    const auto bent = [](double s) { return std::asinh(s / curveOfSpeeds); };
    const double share = (at_.speedBottom - y) / (at_.speedBottom - speedTop);
    return std::sinh(bent(slowest_) + share * (bent(fastest_) - bent(slowest_))) * curveOfSpeeds;
}

void ThreadChart::drawSpeedLane(QPainter& p, const Visible& v) const {
    const double left = xOf(0);
    p.setFont(textFont(11));
    for (const double speed : {0.0, 1.0}) {
        const double y = yOfSpeed(speed);
        p.fillRect(
            QRectF(std::max(left, gutter), std::round(y), width() - rightMargin - std::max(left, gutter), 1),
            colour::seam);
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
            forEachStep(std::max(from, seenFrom), std::min(until, seenTo), 2 / scale_,
                        [&](double o) { to(o, speedAt(o)); });
        to(until, speedAt(until - 1e-7));
    }
    // A curve closer than its own width needs no smooth joins, which cost most of its time.
    const bool close = curve.elementCount() > width() / 3;
    p.setRenderHint(QPainter::Antialiasing, !close);
    p.setPen(close ? QPen(colour::ink, 1) : QPen(colour::ink, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.setBrush(Qt::NoBrush);
    p.drawPath(curve);
    p.setRenderHint(QPainter::Antialiasing);
    // The speed of each stretch that has room for it.
    for (std::size_t i = 0; i + 1 < keys.size(); ++i) {
        const double from = keys[i].output.toDouble();
        const double until = keys[i + 1].output.toDouble();
        if (until < seenFrom || from > seenTo || keys[i].after == Segment::eased) continue;
        const double x = xOf(std::max(from, seenFrom));
        const double end = std::min(xOf(until), static_cast<double>(width()) - rightMargin);
        if (end - std::max(x, gutter) < 30) continue; // before the words are measured, which takes longer
        const double speed = speedAt(from + 1e-7);
        const QString words = keys[i].after == Segment::hold
                                  ? tr("freeze")
                                  : tr("%1 %")
                                        .arg(std::round(speed * 1000) / 10)
                                        .replace(QLatin1Char('-'), QStringLiteral("−"));
        if (end - std::max(x, gutter) < p.fontMetrics().horizontalAdvance(words) + 16) continue;
        const double y = yOfSpeed(speed);
        p.setPen(colour::faint);
        const double above = y - 17 < speedTop - 8 ? y + 3 : y - 17;
        p.drawText(QRectF(std::max(x, gutter), above, end - std::max(x, gutter), 14), Qt::AlignCenter, words);
    }
}

void ThreadChart::drawPositionLane(QPainter& p, const Visible& v) const {
    p.setFont(textFont(11));
    for (const std::int64_t frame : {timing_.from, timing_.to}) {
        const double y = yOfPosition(static_cast<double>(frame));
        p.fillRect(QRectF(gutter, std::round(y), width() - rightMargin - gutter, 1), colour::seam);
        p.setPen(colour::faint);
        p.drawText(QRectF(width() - rightMargin - 60, frame == timing_.from ? y - 15 : y + 1, 60, 14),
                   Qt::AlignRight, QString::number(frame));
    }
    QPainterPath curve;
    const double from = std::max(0.0, static_cast<double>(v.first) - 1);
    const double until = std::min(map_->length().toDouble(), static_cast<double>(v.last) + 1);
    curve.moveTo(xOf(from), yOfPosition(map_->positionAt(from)));
    forEachStep(from, until, 2 / scale_,
                [&](double o) { curve.lineTo(xOf(o), yOfPosition(map_->positionAt(o))); });
    curve.lineTo(xOf(until), yOfPosition(map_->positionAt(until - 1e-9)));
    p.setPen(QPen(colour::ink, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.setBrush(Qt::NoBrush);
    p.drawPath(curve);
}

void ThreadChart::drawKeys(QPainter& p, const Visible& v) const {
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
            p.setPen(QPen(colour::indigo, 1));
            p.drawLine(at - QPointF(easeReach, 0), at + QPointF(easeReach, 0));
            p.setBrush(colour::paper);
            for (const double side : {-easeReach, easeReach})
                p.drawEllipse(at + QPointF(side, 0), 3.5, 3.5);
        }
        p.setPen(QPen(chosen ? colour::indigo : colour::ink, chosen ? 2 : 1.4));
        p.setBrush(colour::paper);
        p.drawPolygon(
            QPolygonF{at + QPointF(0, -5), at + QPointF(5, 0), at + QPointF(0, 5), at + QPointF(-5, 0)});
    }
}

QPointF ThreadChart::placeOfKey(int key) const {
    const TimeKey& k = map_->keys()[static_cast<std::size_t>(key)];
    const double output = k.output.toDouble();
    if (showsPositions_) return {xOf(output), yOfPosition(k.position.toDouble())};
    return {xOf(output), yOfSpeed(timing_.speedOf(1).toDouble() * map_->speedAt(output + 1e-7))};
}

double ThreadChart::yOfPosition(double position) const {
    const auto from = static_cast<double>(timing_.from);
    const auto to = static_cast<double>(timing_.to + 1);
    return at_.speedBottom - (position - from) / (to - from) * (at_.speedBottom - speedTop);
}

double ThreadChart::positionAtY(double y) const {
    const auto from = static_cast<double>(timing_.from);
    const auto to = static_cast<double>(timing_.to + 1);
    return from + (at_.speedBottom - y) / (at_.speedBottom - speedTop) * (to - from);
}

bool ThreadChart::isJump(int key) const {
    const auto& keys = map_->keys();
    const auto i = static_cast<std::size_t>(key);
    return i > 0 && i + 1 < keys.size() && keys[i - 1].after == Segment::constant &&
           keys[i].after == Segment::constant && !showsPositions_;
}

std::optional<int> ThreadChart::keyUnder(const QPointF& place) const {
    if (!plan_ || !map_) return std::nullopt;
    std::optional<int> nearest;
    double least = grasp + 1;
    for (int i = 1; i + 1 < static_cast<int>(map_->keys().size()); ++i) {
        const QPointF away = place - placeOfKey(i);
        const double distance = std::max(std::abs(away.x()), std::abs(away.y()));
        if (distance < least) {
            least = distance;
            nearest = i;
        }
    }
    return nearest;
}

std::optional<int> ThreadChart::handleUnder(const QPointF& place) const {
    if (!plan_ || chosen_.size() != 1 || !isJump(chosen_.front())) return std::nullopt;
    const QPointF away = place - placeOfKey(chosen_.front());
    const bool near = std::abs(std::abs(away.x()) - easeReach) <= 5 && std::abs(away.y()) <= 5;
    return near ? std::optional(chosen_.front()) : std::nullopt;
}

std::optional<int> ThreadChart::stretchUnder(const QPointF& place) const {
    if (!plan_ || !map_ || showsPositions_ || place.y() > at_.speedBottom + grasp ||
        place.y() < speedTop - grasp)
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

} // namespace yarngap::app
