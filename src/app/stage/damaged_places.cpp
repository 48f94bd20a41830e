#include "app/stage/damaged_places.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

namespace {

QRect rectOf(const DamagedPlace& place) {
    return {place.x, place.y, place.width, place.height};
}

DamagedPlace placeOf(const QRect& rect) {
    return {rect.x(), rect.y(), rect.width(), rect.height()};
}

} // namespace

QRect pixelsOf(const QRectF& drawn, const QRectF& whole, const QSize& size) {
    if (whole.isEmpty()) return {};
    const auto across = [&](double x) { return (x - whole.left()) / whole.width() * size.width(); };
    const auto down = [&](double y) { return (y - whole.top()) / whole.height() * size.height(); };
    const QPoint from(static_cast<int>(std::floor(across(drawn.left()))),
                      static_cast<int>(std::floor(down(drawn.top()))));
    const QPoint to(static_cast<int>(std::ceil(across(drawn.right()))),
                    static_cast<int>(std::ceil(down(drawn.bottom()))));
    return QRect(from, QSize(to.x() - from.x(), to.y() - from.y())) & QRect(QPoint(0, 0), size);
}

QRectF shownAt(const DamagedPlace& place, const QRectF& whole, const QSize& size) {
    const double sx = whole.width() / std::max(1, size.width());
    const double sy = whole.height() / std::max(1, size.height());
    return {whole.left() + place.x * sx, whole.top() + place.y * sy, place.width * sx, place.height * sy};
}

std::vector<DamagedPlace> withPlace(std::vector<DamagedPlace> places, const QRect& place) {
    std::erase_if(places, [&](const DamagedPlace& p) { return place.contains(rectOf(p)); });
    if (places.size() < CleanupDecision::mostPlaces) places.push_back(placeOf(place));
    return places;
}

std::vector<DamagedPlace> withoutPlace(const std::vector<DamagedPlace>& places, const QRect& place) {
    std::vector<DamagedPlace> left;
    for (const DamagedPlace& p : places) {
        const QRect rect = rectOf(p);
        const QRect gone = rect & place;
        if (gone.isEmpty()) {
            left.push_back(p);
            continue;
        }
        // Above, below, and at both sides of what is gone.
        const QRect parts[]{{rect.left(), rect.top(), rect.width(), gone.top() - rect.top()},
                            {rect.left(), gone.bottom() + 1, rect.width(), rect.bottom() - gone.bottom()},
                            {rect.left(), gone.top(), gone.left() - rect.left(), gone.height()},
                            {gone.right() + 1, gone.top(), rect.right() - gone.right(), gone.height()}};
        for (const QRect& part : parts)
            if (!part.isEmpty() && left.size() < CleanupDecision::mostPlaces) left.push_back(placeOf(part));
    }
    return left;
}

} // namespace yarngap::app
