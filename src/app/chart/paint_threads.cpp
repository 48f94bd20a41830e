// The threads of the thread chart, one by one or merged to ribbons.

#include "app/chart/chart_painting.h"
#include "app/look/frame_shapes.h"

#include <QList>
#include <QPainter>

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap::app {

using namespace chart;

void ChartPainting::drawThreads(QPainter& p, const Visible& v) const {
    // Gathered by kind: a change of pen takes as long as a thread.
    std::array<std::array<QList<QLineF>, 2>, kinds> threads;
    for (std::int64_t i = v.first; i <= v.last; ++i) {
        const PlanRow& row = plan_->rows[static_cast<std::size_t>(i)];
        const std::size_t single = row.first == row.last ? 1 : 0;
        const QPointF end(xOf(static_cast<double>(i)), at_.outputY);
        constexpr std::int64_t most = 12; // a blend of hundreds needs no more threads than the eye can tell
        const std::int64_t stride = row.bridged
                                        ? row.last - row.first
                                        : std::max<std::int64_t>(1, (row.last - row.first + most - 1) / most);
        const auto add = [&](std::int64_t n, std::size_t weight) {
            threads[static_cast<std::size_t>(row.kind)][weight].push_back(
                {QPointF(sourceX(static_cast<double>(n)), at_.sourceY), end});
        };
        for (std::int64_t n = row.first; n <= row.last; n += stride)
            add(n, single);
        if (row.subject) // stronger than those of its background
            for (const std::int64_t n : {row.subject->first, row.subject->second})
                add(n, 1);
    }
    const bool strong = scale_ >= 12;
    for (std::size_t kind = 0; kind < kinds; ++kind)
        for (const bool single : {false, true}) {
            QColor colour = colourOf(static_cast<FrameKind>(kind));
            colour.setAlphaF(single ? (strong ? 0.9F : 0.7F) : (strong ? 0.6F : 0.45F));
            p.setPen(QPen(colour, single ? 1.3 : 1.0, Qt::SolidLine, Qt::FlatCap));
            p.drawLines(threads[kind][single ? 1 : 0]);
        }
}

void ChartPainting::drawRibbons(QPainter& p, const Visible& v) const {
    // Too close to tell apart: bands of a few pixels take the mixed colour of their frames, with a thread at
    // each seam so that the eye still sees them fan out and meet.
    const auto total = static_cast<std::int64_t>(plan_->rows.size());
    const double firstX = std::max(gutter, xOf(static_cast<double>(v.first)));
    const double lastX = std::min(static_cast<double>(chartWidth()), xOf(static_cast<double>(v.last)));
    const auto sourceUnder = [&](double x) {
        // Between the positions of its two output frames.
        const double output = std::clamp(outputAt(x), 0.0, static_cast<double>(total - 1));
        const auto below = static_cast<std::size_t>(output);
        const auto above = std::min(below + 1, static_cast<std::size_t>(total - 1));
        const double left = plan_->rows[below].position.toDouble();
        const double right = plan_->rows[above].position.toDouble();
        return sourceX(left + (right - left) * (output - std::floor(output)));
    };
    const auto bands = static_cast<int>(std::ceil((lastX - firstX) / ribbonGrain));
    for (int band = 0; band < bands; ++band) {
        const double x = firstX + band * ribbonGrain;
        const double end = std::min(x + ribbonGrain, lastX);
        const auto from =
            std::clamp<std::int64_t>(static_cast<std::int64_t>(std::floor(outputAt(x) + 0.5)), 0, total - 1);
        const auto to = std::clamp<std::int64_t>(static_cast<std::int64_t>(std::floor(outputAt(end) + 0.5)),
                                                 from + 1, total);
        double r = 0;
        double g = 0;
        double b = 0;
        for (std::size_t k = 0; k < kinds; ++k) {
            const double share = static_cast<double>(before_[static_cast<std::size_t>(to)][k] -
                                                     before_[static_cast<std::size_t>(from)][k]) /
                                 static_cast<double>(to - from);
            const QColor c = colourOf(static_cast<FrameKind>(k));
            r += share * c.redF();
            g += share * c.greenF();
            b += share * c.blueF();
        }
        QColor mixed = QColor::fromRgbF(static_cast<float>(r), static_cast<float>(g), static_cast<float>(b));
        const double topLeft = sourceUnder(x);
        const double topRight = sourceUnder(end);
        mixed.setAlphaF(0.3F);
        p.setRenderHint(QPainter::Antialiasing, false);
        p.setPen(Qt::NoPen);
        p.setBrush(mixed);
        p.drawPolygon(
            QPolygonF{{topLeft, at_.sourceY}, {topRight, at_.sourceY}, {end, at_.outputY}, {x, at_.outputY}});
        mixed.setAlphaF(0.55F);
        p.setRenderHint(QPainter::Antialiasing, true);
        p.setPen(QPen(mixed, 1));
        p.drawLine(QPointF(topLeft, at_.sourceY), QPointF(x, at_.outputY));
    }
    p.setRenderHint(QPainter::Antialiasing, true);
}

} // namespace yarngap::app
