#include "app/chart/chart_painting.h"

#include "app/look/theme.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>

namespace yarngap::app {

using namespace chart;

void ChartPainting::drawLasting(QPainter& p) {
    speeds_.clear();
    p.fillRect(QRectF(QPointF(), size_), shades().cloth);
    p.fillRect(0, 0, chartWidth(), 1, shades().seam);
    p.setRenderHint(QPainter::Antialiasing);
    drawHeader(p);
    if (!plan_ || plan_->rows.empty()) return;

    p.setFont(textFont(12));
    p.setPen(shades().faint);
    for (const auto& [name, y] :
         {std::pair{showsPositions_ ? tr("position") : tr("speed"), (speedTop + at_.speedBottom) / 2},
          {tr("source"), at_.sourceY},
          {tr("output"), at_.outputY},
          {tr("ready"), at_.readyY}})
        p.drawText(QRectF(16, y - 10, gutter - 24, 20), Qt::AlignVCenter | Qt::AlignLeft, name);
    if (at_.doubtHeight > 0)
        p.drawText(QRectF(16, at_.doubtTop, gutter - 24, at_.doubtHeight), Qt::AlignVCenter | Qt::AlignLeft,
                   tr("doubt"));

    const Visible v = visible();
    fitRail(v);
    p.setClipRect(lanes());
    drawSelection(p);
    if (showsPositions_)
        drawPositionLane(p, v);
    else
        drawSpeedLane(p, v);
    drawKeys(p, v);
    if (scale_ >= threadScale)
        drawThreads(p, v);
    else
        drawRibbons(p, v);
    drawSourceRail(p, v);
    drawCuts(p);
    drawOutputRail(p, v);
    drawDoubts(p);
    // The stitch line is dashed as a whole; solid stitches go over what is ready.
    const double end = std::min(xOf(static_cast<double>(v.last)), static_cast<double>(chartWidth()));
    const auto stitches = static_cast<int>((end - xOf(static_cast<double>(v.first))) / 8);
    for (int i = 0; i <= stitches; ++i)
        p.fillRect(QRectF(xOf(static_cast<double>(v.first)) + i * 8, at_.readyY - 1.5, 3, 3), shades().seam);
}

void ChartPainting::drawStitchLine(QPainter& p, const Visible& v) const {
    const auto at = [this](std::int64_t i) {
        return ready_ && i < static_cast<std::int64_t>(ready_->size())
                   ? (*ready_)[static_cast<std::size_t>(i)]
                   : Readiness::toMake;
    };
    for (std::int64_t i = v.first; i <= v.last;) {
        const Readiness readiness = at(i);
        std::int64_t end = i + 1;
        while (end <= v.last && at(end) == readiness)
            ++end;
        const QRectF place(QPointF(xOf(static_cast<double>(i) - 0.5) + 0.5, at_.readyY - 1.5),
                           QPointF(xOf(static_cast<double>(end) - 0.5) - 0.5, at_.readyY + 1.5));
        // Shape first: ready is a whole line, a draft a thin one, what failed stands up.
        if (readiness == Readiness::ready) p.fillRect(place, shades().slate);
        if (readiness == Readiness::draft) p.fillRect(place.adjusted(0, 1, 0, -1), shades().slate);
        if (readiness == Readiness::failed) p.fillRect(place.adjusted(0, -3, 0, 3), shades().madder);
        i = end;
    }
}

void ChartPainting::drawPlayhead(QPainter& p, std::int64_t playhead,
                                 const std::optional<std::pair<qint64, qint64>>& loop) const {
    if (loop) { // a bracket below what it holds
        const QRectF place(QPointF(xOf(static_cast<double>(loop->first) - 0.5), at_.readyY + 5),
                           QPointF(xOf(static_cast<double>(loop->second) + 0.5), at_.readyY + 7));
        p.fillRect(place, shades().indigo);
        p.fillRect(QRectF(place.left(), place.top() - 4, 2, 6), shades().indigo);
        p.fillRect(QRectF(place.right() - 2, place.top() - 4, 2, 6), shades().indigo);
    }
    const double x = xOf(static_cast<double>(playhead));
    p.setPen(QPen(shades().indigo, 2));
    p.drawLine(QPointF(x, 34), QPointF(x, at_.readyY + 8));
    for (const auto& [place, words] : speeds_) { // a speed that it stands on stays readable
        if (x < place.left() - 2 || x > place.right() + 2) continue;
        p.fillRect(place.adjusted(-3, 0, 3, 0), shades().cloth);
        p.setFont(textFont(11));
        p.setPen(shades().ink);
        p.drawText(place, Qt::AlignCenter, words);
    }
    p.setPen(Qt::NoPen);
    p.setBrush(shades().indigo);
    QPainterPath handle;
    handle.moveTo(x - 6, 30);
    handle.lineTo(x + 6, 30);
    handle.lineTo(x, 39);
    handle.closeSubpath();
    p.drawPath(handle);
}

void ChartPainting::drawSelection(QPainter& p) const {
    if (!selection_) return;
    QColor tint = shades().indigo;
    tint.setAlphaF(0.10F);
    const double left = xOf(static_cast<double>(selection_->first) - 0.5);
    const double right = xOf(static_cast<double>(selection_->last) + 0.5);
    p.fillRect(QRectF(left, speedTop - 6, right - left, at_.readyY + 8 - speedTop), tint);
    p.setPen(QPen(shades().indigo, 1));
    for (const double x : {left, right})
        p.drawLine(QPointF(x, speedTop - 6), QPointF(x, at_.readyY + 2));
}

void ChartPainting::drawDragWords(QPainter& p) const {
    if (dragWords_.isEmpty()) return;
    p.setFont(textFont(12, QFont::DemiBold));
    const double w = p.fontMetrics().horizontalAdvance(dragWords_) + 16;
    const double x =
        std::clamp(dragPlace_.x() - w / 2, gutter, std::max(gutter, chartWidth() - rightMargin - w));
    const double y = dragPlace_.y() > 76 ? dragPlace_.y() - 38 : dragPlace_.y() + 18;
    p.setPen(QPen(shades().indigo, 1));
    p.setBrush(shades().paper);
    p.drawRoundedRect(QRectF(x, y, w, 24), 4, 4);
    p.setPen(shades().ink);
    p.drawText(QRectF(x, y, w, 24), Qt::AlignCenter, dragWords_);
}

bool ChartPainting::isChosen(int key) const {
    return std::find(chosen_.begin(), chosen_.end(), key) != chosen_.end();
}

} // namespace yarngap::app
