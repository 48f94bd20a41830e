// Where speeds, positions and keys lie in the lane on top.

#include "app/chart/chart_places.h"

#include <algorithm>
#include <cmath>

namespace yarngap::app {

using namespace chart;

void ChartPlaces::fitSpeeds() {
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

double ChartPlaces::yOfSpeed(double speed) const {
    const auto bent = [](double s) { return std::asinh(s / curveOfSpeeds); };
    const double share = (bent(speed) - bent(slowest_)) / (bent(fastest_) - bent(slowest_));
    return at_.speedBottom - share * (at_.speedBottom - speedTop);
}

double ChartPlaces::speedAtY(double y) const {
    const auto bent = [](double s) { return std::asinh(s / curveOfSpeeds); };
    const double share = (at_.speedBottom - y) / (at_.speedBottom - speedTop);
    return std::sinh(bent(slowest_) + share * (bent(fastest_) - bent(slowest_))) * curveOfSpeeds;
}

QPointF ChartPlaces::placeOfKey(int key) const {
    const TimeKey& k = map_->keys()[static_cast<std::size_t>(key)];
    const double output = k.output.toDouble();
    if (showsPositions_) return {xOf(output), yOfPosition(k.position.toDouble())};
    return {xOf(output), yOfSpeed(timing_.speedOf(1).toDouble() * map_->speedAt(output + 1e-7))};
}

double ChartPlaces::yOfPosition(double position) const {
    const auto from = static_cast<double>(timing_.from);
    const auto to = static_cast<double>(timing_.to + 1);
    return at_.speedBottom - (position - from) / (to - from) * (at_.speedBottom - speedTop);
}

double ChartPlaces::positionAtY(double y) const {
    const auto from = static_cast<double>(timing_.from);
    const auto to = static_cast<double>(timing_.to + 1);
    return from + (at_.speedBottom - y) / (at_.speedBottom - speedTop) * (to - from);
}

bool ChartPlaces::isJump(int key) const {
    const auto& keys = map_->keys();
    const auto i = static_cast<std::size_t>(key);
    return i > 0 && i + 1 < keys.size() && keys[i - 1].after == Segment::constant &&
           keys[i].after == Segment::constant && !showsPositions_;
}

std::optional<int> ChartPlaces::keyUnder(const QPointF& place) const {
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

std::optional<int> ChartPlaces::stretchUnder(const QPointF& place) const {
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
