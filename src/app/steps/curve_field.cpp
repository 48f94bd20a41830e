#include "app/steps/curve_field.h"

#include "app/look/theme.h"

#include <QKeyEvent>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double leastApart = 0.004; // between two points, across
constexpr double nearHandle = 10;

} // namespace

CurveField::CurveField(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("toneCurve"));
    setAccessibleName(tr("Tone curve"));
    setToolTip(tr("Click for a point and drag it; double click or Delete takes it away"));
    setFixedHeight(150);
    setFocusPolicy(Qt::StrongFocus);
    setProperty("takesArrows", true); // else they step frames
}

std::vector<CurvePoint> CurveField::points() const {
    return points_.empty() ? std::vector<CurvePoint>{{0, 0}, {1, 1}} : points_;
}

void CurveField::setCurve(const std::vector<CurvePoint>& points) {
    points_ = points;
    if (chosen_ && *chosen_ >= this->points().size()) chosen_.reset();
    tellChosen();
    update();
}

void CurveField::setHistogram(const std::optional<Histogram>& histogram) {
    histogram_ = histogram;
    update();
}

QRectF CurveField::box() const {
    return QRectF(rect()).adjusted(5, 5, -5, -5);
}

QPointF CurveField::placeOf(const CurvePoint& point) const {
    const QRectF area = box();
    return {area.left() + point.x * area.width(), area.bottom() - point.y * area.height()};
}

CurvePoint CurveField::pointAt(const QPointF& place) const {
    const QRectF area = box();
    return {std::clamp((place.x() - area.left()) / area.width(), 0.0, 1.0),
            std::clamp((area.bottom() - place.y()) / area.height(), 0.0, 1.0)};
}

std::optional<std::size_t> CurveField::handleAt(const QPointF& place) const {
    const auto all = points();
    std::optional<std::size_t> best;
    double closest = nearHandle;
    for (std::size_t i = 0; i < all.size(); ++i) {
        const QPointF off = placeOf(all[i]) - place;
        if (const double d = std::hypot(off.x(), off.y()); d < closest) {
            closest = d;
            best = i;
        }
    }
    return best;
}

void CurveField::tellChosen() {
    const auto all = points();
    if (!chosen_) return setAccessibleDescription(tr("%n points", nullptr, static_cast<int>(all.size())));
    setAccessibleDescription(
        tr("Point %1 of %2: %3 becomes %4")
            .arg(*chosen_ + 1)
            .arg(all.size())
            .arg(QLocale().toString(all[*chosen_].x, 'f', 2), QLocale().toString(all[*chosen_].y, 'f', 2)));
}

void CurveField::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(hasFocus() ? shades().indigo : shades().seam, 1));
    p.setBrush(shades().paper);
    p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    const QRectF area = box();
    if (histogram_) {
        const float most = std::max(0.02F, *std::ranges::max_element(histogram_->shares));
        QPainterPath hill(area.bottomLeft());
        const auto bins = histogram_->shares.size();
        for (std::size_t i = 0; i < bins; ++i) // by the root, so that little is seen as well
            hill.lineTo(area.left() + area.width() * static_cast<double>(i) / static_cast<double>(bins - 1),
                        area.bottom() - area.height() * 0.9 *
                                            std::sqrt(static_cast<double>(histogram_->shares[i] / most)));
        hill.lineTo(area.bottomRight());
        hill.closeSubpath();
        p.setPen(Qt::NoPen);
        p.setBrush(shades().seam);
        p.drawPath(hill);
    }
    p.setPen(QPen(shades().seam, 1, Qt::DotLine));
    p.drawLine(area.bottomLeft(), area.topRight());
    const auto all = points();
    const MonotoneCurve curve(all);
    QPainterPath line;
    const int steps = static_cast<int>(area.width());
    for (int i = 0; i <= steps; ++i) {
        const double x = static_cast<double>(i) / steps;
        const QPointF at = placeOf({x, curve(x)});
        if (i == 0)
            line.moveTo(at);
        else
            line.lineTo(at);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(shades().ink, 1.5));
    p.drawPath(line);
    for (std::size_t i = 0; i < all.size(); ++i) {
        const bool isChosen = chosen_ == i;
        p.setPen(QPen(isChosen ? shades().indigo : shades().ink, 1.5));
        p.setBrush(isChosen ? shades().indigo : shades().paper);
        p.drawEllipse(placeOf(all[i]), 3.5, 3.5);
    }
}

void CurveField::move(std::size_t point, CurvePoint to, bool isDragged) {
    auto all = points();
    const bool isFirst = point == 0;
    const bool isLast = point + 1 == all.size();
    to.x = std::clamp(to.x, isFirst ? 0.0 : all[point - 1].x + leastApart,
                      isLast ? 1.0 : all[point + 1].x - leastApart);
    to.y = std::clamp(to.y, isFirst ? 0.0 : all[point - 1].y, isLast ? 1.0 : all[point + 1].y);
    all[point] = to;
    Q_EMIT changed(all, isDragged);
}

void CurveField::add(const CurvePoint& point) {
    auto all = points();
    if (all.size() >= ToneKey::mostPoints) return;
    const auto after = std::ranges::find_if(all, [&](const CurvePoint& p) { return p.x > point.x; });
    if ((after != all.end() && after->x - point.x < leastApart) ||
        (after != all.begin() && point.x - std::prev(after)->x < leastApart))
        return;
    chosen_ = static_cast<std::size_t>(after - all.begin());
    const double low = after == all.begin() ? 0 : std::prev(after)->y;
    const double high = after == all.end() ? 1 : after->y;
    all.insert(after, {point.x, std::clamp(point.y, low, high)});
    Q_EMIT changed(all, false);
}

void CurveField::remove() {
    auto all = points();
    if (!chosen_ || all.size() <= 2) return;
    all.erase(all.begin() + static_cast<std::ptrdiff_t>(*chosen_));
    chosen_.reset();
    if (all == std::vector<CurvePoint>{{0, 0}, {1, 1}}) all.clear();
    Q_EMIT changed(all, false);
}

void CurveField::mousePressEvent(QMouseEvent* press) {
    if (press->button() != Qt::LeftButton) return;
    chosen_ = handleAt(press->position());
    if (!chosen_) add(pointAt(press->position()));
    isDragging_ = chosen_.has_value();
    tellChosen();
    update();
}

void CurveField::mouseMoveEvent(QMouseEvent* moved) {
    if (isDragging_ && chosen_) move(*chosen_, pointAt(moved->position()), true);
}

void CurveField::mouseReleaseEvent(QMouseEvent*) {
    isDragging_ = false;
}

void CurveField::mouseDoubleClickEvent(QMouseEvent* click) {
    isDragging_ = false;
    chosen_ = handleAt(click->position());
    remove();
}

void CurveField::keyPressEvent(QKeyEvent* press) {
    const auto all = points();
    const std::size_t now = chosen_.value_or(0);
    const double step = press->modifiers().testFlag(Qt::ShiftModifier) ? 0.05 : 0.01;
    const auto moveBy = [&](double x, double y) { move(now, {all[now].x + x, all[now].y + y}, true); };
    switch (press->key()) {
    case Qt::Key_PageDown:
        chosen_ = chosen_ ? std::min(now + 1, all.size() - 1) : 0;
        break;
    case Qt::Key_PageUp:
        chosen_ = now > 0 ? now - 1 : 0;
        break;
    case Qt::Key_Left:
    case Qt::Key_Right:
        if (!chosen_) return QWidget::keyPressEvent(press);
        moveBy(press->key() == Qt::Key_Left ? -step : step, 0);
        break;
    case Qt::Key_Up:
    case Qt::Key_Down:
        if (!chosen_) return QWidget::keyPressEvent(press);
        moveBy(0, press->key() == Qt::Key_Up ? step : -step);
        break;
    case Qt::Key_Insert: {
        const std::size_t next = std::min(now + 1, all.size() - 1);
        const std::size_t before = next - 1;
        add({(all[before].x + all[next].x) / 2, MonotoneCurve(all)((all[before].x + all[next].x) / 2)});
        break;
    }
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        remove();
        break;
    default:
        return QWidget::keyPressEvent(press);
    }
    tellChosen();
    update();
}

} // namespace yarngap::app
