// The line over the lanes: what the chart counts.

#include "app/chart/chart_painting.h"
#include "app/look/core_names.h"
#include "app/look/frame_shapes.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "core/time/timecode.h"

#include <QPainter>

namespace yarngap::app {

using namespace chart;

void ChartPainting::drawHeader(QPainter& p) const {
    p.setFont(textFont(11, QFont::DemiBold));
    p.setPen(shades().faint);
    p.drawText(QRectF(16, 4, 200, 24), Qt::AlignVCenter | Qt::AlignLeft, tr("THREAD CHART"));
    if (!plan_ || plan_->rows.empty()) {
        p.setFont(textFont(12));
        p.drawText(QRectF(0, 30, chartWidth(), chartHeight() - 30), Qt::AlignCenter,
                   tr("Source frames, output frames and the threads between them appear here."));
        return;
    }
    p.setFont(textFont(12));
    const Timecode timecode(timing_.outputRate);
    const auto str = [](const std::string& s) { return QString::fromStdString(s); };
    const double right = headerRight_;
    const Visible v = visible();
    constexpr double words = 130; // where the title ends
    QString range =
        tr("%1 → %2 fps · %3 to %4")
            .arg(shownDecimal(timing_.sourceRate.display()), shownDecimal(timing_.outputRate.display()),
                 str(timecode.format(v.first)), str(timecode.format(v.last)));
    if (p.fontMetrics().horizontalAdvance(range) > right - words)
        range =
            tr("%1 → %2 fps")
                .arg(shownDecimal(timing_.sourceRate.display()), shownDecimal(timing_.outputRate.display()));
    if (p.fontMetrics().horizontalAdvance(range) > right - words) range.clear();
    p.drawText(QRectF(0, 4, right, 24), Qt::AlignVCenter | Qt::AlignRight, range);
    drawLegend(p, right - p.fontMetrics().horizontalAdvance(range) - 32);
}

void ChartPainting::drawLegend(QPainter& p, double right) const {
    double x = 130;
    for (const FrameKind kind :
         {FrameKind::original, FrameKind::repeat, FrameKind::blend, FrameKind::flow, FrameKind::held}) {
        const std::int64_t n = before_.back()[static_cast<std::size_t>(kind)];
        if (n == 0) continue;
        const QString label = tr("%1 %2").arg(n).arg(named(name(kind)));
        const double w = p.fontMetrics().horizontalAdvance(label);
        if (x + w + 14 > right) return;
        drawFrameShape(p, kind, {x, 16}, 4.5);
        p.setPen(shades().ink);
        p.drawText(QRectF(x + 10, 4, w + 4, 24), Qt::AlignVCenter | Qt::AlignLeft, label);
        x += w + 28;
    }
}

} // namespace yarngap::app
