// The rails of the thread chart: source frames above, output frames below, and the ruler.

#include "app/frame_shapes.h"
#include "app/theme.h"
#include "app/thread_chart.h"
#include "app/thread_chart_places.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

using namespace chart;

namespace {

/// Distance between numbers on a ruler: 1, 2, 5, 10, 20 … frames, at least `wanted`.
std::int64_t numberStep(double wanted) {
    std::int64_t step = 1;
    while (true) {
        for (const std::int64_t factor : {1, 2, 4, 5})
            if (static_cast<double>(step * factor) >= wanted) return step * factor;
        step *= 10;
    }
}

} // namespace

void ThreadChart::drawSourceRail(QPainter& p, const Visible& v) const {
    const double left = sourceX(static_cast<double>(timing_.from));
    const double right = sourceX(static_cast<double>(timing_.to));
    p.setPen(QPen(colour::ink, 1.2));
    p.drawLine(QPointF(left, sourceY), QPointF(right, sourceY));
    // Trim: a short upright at the first and the last source frame.
    p.setPen(QPen(colour::ink, 2));
    for (const double x : {left, right})
        p.drawLine(QPointF(x, sourceY - 8), QPointF(x, sourceY + 4));

    const double framePixels = sourceX(1) - sourceX(0);
    const bool varies = timing_.varies();
    const auto firstFrame =
        varies ? std::max(timing_.from, static_cast<std::int64_t>(std::floor(railFrom_)))
               : std::max(timing_.from, plan_->rows[static_cast<std::size_t>(v.first)].first);
    const auto lastFrame = varies ? std::min(timing_.to, static_cast<std::int64_t>(std::ceil(railTo_)))
                                  : plan_->rows[static_cast<std::size_t>(v.last)].last;
    const std::int64_t numbers = numberStep(56 / framePixels);
    const bool discs = framePixels >= shapeScale;
    p.setFont(textFont(11));
    for (std::int64_t n = firstFrame; n <= lastFrame; ++n) {
        if (!discs && n % numbers != 0) {
            n += numbers - n % numbers - 1; // straight to the next numbered frame
            continue;
        }
        const double x = sourceX(static_cast<double>(n));
        const bool beyond = n > timing_.to;
        const SourceMark* mark = discs ? plan_->markOf(n) : nullptr;
        if (mark && mark->leftOut > 0) { // a notch where the file has frames that are left out
            const double at = x - framePixels / 2;
            p.setPen(QPen(colour::madder, 1.4));
            p.drawLine(QPointF(at - 3, sourceY - 6), QPointF(at, sourceY));
            p.drawLine(QPointF(at + 3, sourceY - 6), QPointF(at, sourceY));
        }
        const bool duplicate = discs && std::binary_search(duplicates_.begin(), duplicates_.end(), n);
        if (duplicate || (mark && mark->repeated)) {
            p.setPen(QPen(colour::ink, 1.2));
            p.setBrush(colour::paper);
            p.drawEllipse(QPointF(x, sourceY), 3.4, 3.4);
        } else if (discs) {
            p.setPen(beyond ? QPen(colour::faint, 1.2) : QPen(Qt::NoPen));
            p.setBrush(beyond ? QBrush(colour::cloth) : QBrush(colour::ink));
            p.drawEllipse(QPointF(x, sourceY), 3.4, 3.4);
        }
        if (n % numbers == 0) {
            p.setPen(colour::faint);
            if (!discs) p.drawLine(QPointF(x, sourceY - 5), QPointF(x, sourceY));
            p.drawText(QRectF(x - 40, sourceY - 23, 80, 16), Qt::AlignCenter, QString::number(n));
        }
    }
}

void ThreadChart::drawCuts(QPainter& p) const {
    p.setPen(QPen(colour::madder, 1.4));
    for (const std::int64_t n : cuts_) {
        if (n < timing_.from || n > timing_.to) continue;
        const double x = sourceX(static_cast<double>(n) - 0.5);
        p.drawLine(QPointF(x, sourceY - 9), QPointF(x, sourceY + 9));
    }
}

void ThreadChart::drawOutputRail(QPainter& p, const Visible& v) const {
    p.setPen(QPen(colour::ink, 1.2));
    p.drawLine(QPointF(xOf(static_cast<double>(v.first)), outputY),
               QPointF(xOf(static_cast<double>(v.last)), outputY));
    if (scale_ >= shapeScale)
        for (std::int64_t i = v.first; i <= v.last; ++i)
            drawFrameShape(p, plan_->rows[static_cast<std::size_t>(i)].kind,
                           {xOf(static_cast<double>(i)), outputY}, scale_ >= 10 ? 4.2 : 2.8);
    else if (scale_ >= threadScale)
        for (std::int64_t i = v.first; i <= v.last; ++i) {
            const FrameKind kind = plan_->rows[static_cast<std::size_t>(i)].kind;
            const double half = kind == FrameKind::original ? 4 : 2;
            p.setPen(QPen(colourOf(kind), 1.6));
            p.drawLine(QPointF(xOf(static_cast<double>(i)), outputY - half),
                       QPointF(xOf(static_cast<double>(i)), outputY + half));
        }
    const std::int64_t numbers = numberStep((unit_ == Unit::timecode ? 96 : 64) / scale_);
    p.setFont(textFont(11));
    for (std::int64_t i = (v.first + numbers - 1) / numbers * numbers; i <= v.last; i += numbers) {
        const double x = xOf(static_cast<double>(i));
        p.setPen(colour::seam);
        p.drawLine(QPointF(x, readyY + 6), QPointF(x, readyY + 10));
        p.setPen(colour::faint);
        p.drawText(QRectF(x - 40, rulerY - 8, 80, 16), Qt::AlignCenter, unitText(i));
    }
}

} // namespace yarngap::app
