#include "app/chart/chart_places.h"

#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <cmath>

namespace yarngap::app {

using namespace chart;

std::int64_t numberStep(double wanted) {
    std::int64_t step = 1;
    while (true) {
        for (const std::int64_t factor : {1, 2, 4, 5})
            if (static_cast<double>(step * factor) >= wanted) return step * factor;
        step *= 10;
    }
}

double ChartPlaces::laneWidth() const {
    return std::max(50.0, chartWidth() - gutter - rightMargin);
}

double ChartPlaces::xOf(double output) const {
    return gutter + (output - start_) * scale_;
}

double ChartPlaces::outputAt(double x) const {
    return start_ + (x - gutter) / scale_;
}

double ChartPlaces::sourceX(double position) const {
    // The source rail runs evenly over the positions that the visible output frames lie at.
    if (timing_.varies()) {
        const double left = xOf(std::max(start_, 0.0));
        const double right =
            std::min(static_cast<double>(chartWidth()) - rightMargin, xOf(map_->length().toDouble()));
        return left + (position - railFrom_) / (railTo_ - railFrom_) * (right - left);
    }
    const double step = timing_.step().toDouble();
    return xOf((position - static_cast<double>(timing_.from)) / step);
}

ChartPlaces::Visible ChartPlaces::visible() const {
    const auto total = static_cast<std::int64_t>(plan_->rows.size());
    const auto first = static_cast<std::int64_t>(std::floor(start_)) - 1;
    const auto last = static_cast<std::int64_t>(std::ceil(outputAt(chartWidth()))) + 1;
    return {std::clamp<std::int64_t>(first, 0, total - 1), std::clamp<std::int64_t>(last, 0, total - 1)};
}

QRectF ChartPlaces::lanes() const {
    return {gutter - 10, 30, chartWidth() - gutter + 10 - rightMargin / 2, chartHeight() - 30.0};
}

void ChartPlaces::fitRail(const Visible& v) {
    if (!timing_.varies()) return;
    railFrom_ = 1e300;
    railTo_ = -1e300;
    for (std::int64_t i = v.first; i <= v.last; ++i) {
        const double position = plan_->rows[static_cast<std::size_t>(i)].position.toDouble();
        railFrom_ = std::min(railFrom_, position);
        railTo_ = std::max(railTo_, position);
    }
    railTo_ = std::max(railTo_, railFrom_ + 1);
}

ChartPlaces::RailFrames ChartPlaces::railFrames(const Visible& v) const {
    const double framePixels = sourceX(1) - sourceX(0);
    const bool varies = timing_.varies();
    return {varies ? std::max(timing_.from, static_cast<std::int64_t>(std::floor(railFrom_)))
                   : std::max(timing_.from, plan_->rows[static_cast<std::size_t>(v.first)].first),
            varies ? std::min(timing_.to, static_cast<std::int64_t>(std::ceil(railTo_)))
                   : plan_->rows[static_cast<std::size_t>(v.last)].last,
            numberStep(std::max(showsSourceTimecode() ? 84.0 : 56.0, thumbnailWidth() + 6) / framePixels)};
}

double ChartPlaces::thumbnailWidth() const {
    return at_.thumbnailHeight > 0 && thumbnails_ ? at_.thumbnailHeight * thumbnails_->aspect() : 0;
}

QString ChartPlaces::unitText(std::int64_t output) const {
    switch (unit_) {
    case Unit::frames:
        break;
    case Unit::seconds:
        return tr("%1 s").arg(shownNumber(static_cast<double>(output) / timing_.outputRate.toDouble(), 2));
    case Unit::timecode:
        return QString::fromStdString(Timecode(timing_.outputRate).format(output));
    }
    return QString::number(output);
}

} // namespace yarngap::app
