// The lane of doubts: a bar for each gap that frames are made in.

#include "app/chart/chart_painting.h"
#include "app/look/theme.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

void ChartPainting::drawDoubts(QPainter& p) const {
    if (at_.doubtHeight <= 0 || doubts_.empty()) return;
    const double bottom = at_.doubtTop + at_.doubtHeight;
    p.setPen(QPen(shades().seam, 1));
    p.drawLine(QPointF(chart::gutter, bottom), QPointF(chartWidth() - chart::rightMargin, bottom));
    const Visible v = visible();
    // Bars go over the output frames of their gap; of several in one pixel the highest is seen.
    const auto columns = static_cast<std::size_t>(std::max(0, chartWidth()));
    std::vector<double> heights(columns, 0);
    std::vector<char> isOpen(columns, 0);
    const auto& rows = plan_->rows;
    for (std::int64_t n = v.first; n <= v.last; ++n) {
        const PlanRow& row = rows[static_cast<std::size_t>(n)];
        if (row.kind != FrameKind::flow) continue;
        const auto bar = std::ranges::lower_bound(doubts_, row.first, {}, &DoubtBar::first);
        if (bar == doubts_.end() || bar->first != row.first) continue;
        const auto left = static_cast<int>(std::floor(xOf(static_cast<double>(n) - 0.5)));
        const auto right = static_cast<int>(std::ceil(xOf(static_cast<double>(n) + 0.5)));
        for (int x = std::max(0, left); x < std::min(chartWidth(), right); ++x)
            if (const auto at = static_cast<std::size_t>(x); bar->doubt > heights[at]) {
                heights[at] = bar->doubt;
                isOpen[at] = bar->isOpen ? 1 : 0;
            }
    }
    p.setRenderHint(QPainter::Antialiasing, false);
    for (int x = 0; x < chartWidth(); ++x) {
        const double doubt = heights[static_cast<std::size_t>(x)];
        if (doubt <= 0) continue;
        const double high = std::max(1.0, doubt * (at_.doubtHeight - 2));
        p.fillRect(QRectF(x, bottom - high, 1, high),
                   doubt >= doubtLimit_ && isOpen[static_cast<std::size_t>(x)] != 0 ? shades().madder
                                                                                    : shades().slate);
    }
    p.setRenderHint(QPainter::Antialiasing);
}

} // namespace yarngap::app
