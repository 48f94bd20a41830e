// The rails: source frames above, output frames below, and the ruler.

#include "app/chart/chart_painting.h"
#include "app/look/frame_shapes.h"
#include "app/look/theme.h"

#include <QPainter>

#include <algorithm>
#include <cmath>
#include <utility>
#include <vector>

namespace yarngap::app {

using namespace chart;

void ChartPainting::drawThumbnails(QPainter& p, const Visible& v) {
    if (!thumbnails_ || at_.thumbnailHeight <= 0) return;
    const auto [first, last, step] = railFrames(v);
    std::vector<std::int64_t> wanted;
    const QSizeF size(thumbnailWidth(), at_.thumbnailHeight);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    for (std::int64_t n = (first + step - 1) / step * step; n <= last; n += step) {
        const double x = sourceX(static_cast<double>(n));
        if (x < gutter - 2 || x > chartWidth() - rightMargin + 2) continue;
        const double left = std::min(x - size.width() / 2, chartWidth() - size.width() - 4);
        const QRectF place(std::round(left), at_.thumbnailTop, size.width(), size.height());
        const QImage picture = thumbnails_->picture(n);
        if (picture.isNull()) {
            p.fillRect(place, shades().paper);
            wanted.push_back(n);
        } else {
            p.drawImage(place, picture);
        }
        p.setPen(QPen(shades().seam, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(place.adjusted(0.5, 0.5, -0.5, -0.5));
    }
    thumbnails_->want(std::move(wanted));
}

namespace {

/// A source frame that is not as the file has it: a square where it was made as a whole, hollow where the
/// file has no such frame, and a disc in a square where places of it were made. False for any other.
bool drawMade(QPainter& p, const SourceMark& mark, QPointF at) {
    constexpr double half = 3.6;
    const QRectF square(at.x() - half, at.y() - half, 2 * half, 2 * half);
    switch (mark.made) {
    case SourceMark::Made::no:
    case SourceMark::Made::passedOver:
        return false;
    case SourceMark::Made::rebuilt:
        p.setPen(QPen(shades().ink, 1.2));
        p.setBrush(shades().ink);
        p.drawRect(square);
        return true;
    case SourceMark::Made::putIn:
        p.setPen(QPen(shades().ink, 1.2));
        p.setBrush(shades().paper);
        p.drawRect(square);
        return true;
    case SourceMark::Made::restored:
        p.setPen(QPen(shades().ink, 1.2));
        p.setBrush(shades().paper);
        p.drawRect(square.adjusted(-1, -1, 1, 1));
        p.setPen(Qt::NoPen);
        p.setBrush(shades().ink);
        p.drawEllipse(at, 2.4, 2.4);
        return true;
    }
    return false;
}

} // namespace

QRectF ChartPainting::numberPlace(double x, double top) const {
    constexpr double width = 80;
    // A timecode of the first frame would begin under the names of the lanes.
    const double least = unit_ == Unit::timecode ? gutter - 16 : 0;
    return {std::max(x - width / 2, least), top, width, 16};
}

void ChartPainting::drawSourceRail(QPainter& p, const Visible& v) const {
    const double left = sourceX(static_cast<double>(timing_.from));
    const double right = sourceX(static_cast<double>(timing_.to));
    p.setPen(QPen(shades().ink, 1.2));
    p.drawLine(QPointF(left, at_.sourceY), QPointF(right, at_.sourceY));
    // Trim: a short upright at the first and the last source frame.
    p.setPen(QPen(shades().ink, 2));
    for (const double x : {left, right})
        p.drawLine(QPointF(x, at_.sourceY - 8), QPointF(x, at_.sourceY + 4));

    const double framePixels = sourceX(1) - sourceX(0);
    const auto [firstFrame, lastFrame, numbers] = railFrames(v);
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
        // A notch where the file has frames that are left out or taken out.
        if (mark && mark->leftOut + mark->takenOut > 0) {
            const double at = x - framePixels / 2;
            p.setPen(QPen(shades().madder, 1.4));
            p.drawLine(QPointF(at - 3, at_.sourceY - 6), QPointF(at, at_.sourceY));
            p.drawLine(QPointF(at + 3, at_.sourceY - 6), QPointF(at, at_.sourceY));
        }
        const bool duplicate = discs && std::binary_search(duplicates_.begin(), duplicates_.end(), n);
        if (mark && drawMade(p, *mark, QPointF(x, at_.sourceY))) {
            // A frame that was made has a shape of its own.
        } else if (duplicate || (mark && (mark->repeated || mark->made == SourceMark::Made::passedOver))) {
            p.setPen(QPen(shades().ink, 1.2));
            p.setBrush(shades().paper);
            p.drawEllipse(QPointF(x, at_.sourceY), 3.4, 3.4);
        } else if (discs) {
            p.setPen(beyond ? QPen(shades().faint, 1.2) : QPen(Qt::NoPen));
            p.setBrush(beyond ? QBrush(shades().cloth) : QBrush(shades().ink));
            p.drawEllipse(QPointF(x, at_.sourceY), 3.4, 3.4);
        }
        if (n % numbers == 0) {
            p.setPen(shades().faint);
            if (!discs) p.drawLine(QPointF(x, at_.sourceY - 5), QPointF(x, at_.sourceY));
            p.drawText(numberPlace(x, at_.sourceY - 23), Qt::AlignCenter,
                       showsSourceTimecode() ? sourceTimecode_(n) : QString::number(n));
        }
    }
}

void ChartPainting::drawCuts(QPainter& p) const {
    p.setPen(QPen(shades().madder, 1.4));
    for (const std::int64_t n : cuts_) {
        if (n < timing_.from || n > timing_.to) continue;
        const double x = sourceX(static_cast<double>(n) - 0.5);
        p.drawLine(QPointF(x, at_.sourceY - 9), QPointF(x, at_.sourceY + 9));
    }
}

void ChartPainting::drawOutputRail(QPainter& p, const Visible& v) const {
    p.setPen(QPen(shades().ink, 1.2));
    p.drawLine(QPointF(xOf(static_cast<double>(v.first)), at_.outputY),
               QPointF(xOf(static_cast<double>(v.last)), at_.outputY));
    if (scale_ >= shapeScale)
        for (std::int64_t i = v.first; i <= v.last; ++i) {
            const PlanRow& row = plan_->rows[static_cast<std::size_t>(i)];
            const QPointF at(xOf(static_cast<double>(i)), at_.outputY);
            drawFrameShape(p, row.kind, at, scale_ >= 10 ? 4.2 : 2.8);
            if (!row.mend) continue;
            drawMendedMark(p, at + QPointF(0, 8), scale_ >= 10 ? 2.6 : 1.8);
        }
    else if (scale_ >= threadScale)
        for (std::int64_t i = v.first; i <= v.last; ++i) {
            const FrameKind kind = plan_->rows[static_cast<std::size_t>(i)].kind;
            const double half = kind == FrameKind::original ? 4 : 2;
            p.setPen(QPen(colourOf(kind), 1.6));
            p.drawLine(QPointF(xOf(static_cast<double>(i)), at_.outputY - half),
                       QPointF(xOf(static_cast<double>(i)), at_.outputY + half));
        }
    if (scale_ < shapeScale) // too small for stitches: a line below what is mended
        for (std::int64_t i = v.first; i <= v.last; ++i)
            if (plan_->rows[static_cast<std::size_t>(i)].mend)
                p.fillRect(
                    QRectF(xOf(static_cast<double>(i) - 0.5), at_.outputY + 6, std::max(1.0, scale_), 2),
                    shades().indigo);
    const std::int64_t numbers = numberStep((unit_ == Unit::timecode ? 96 : 64) / scale_);
    p.setFont(textFont(11));
    for (std::int64_t i = (v.first + numbers - 1) / numbers * numbers; i <= v.last; i += numbers) {
        const double x = xOf(static_cast<double>(i));
        p.setPen(shades().seam);
        p.drawLine(QPointF(x, at_.readyY + 6), QPointF(x, at_.readyY + 10));
        p.setPen(shades().faint);
        p.drawText(numberPlace(x, at_.rulerY - 8), Qt::AlignCenter, unitText(i));
    }
}

} // namespace yarngap::app
