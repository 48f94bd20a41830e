// Several versions of a frame on the stage.

#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "app/stage/picture_stage.h"

#include <QPainter>

#include <algorithm>
#include <utility>

namespace yarngap::app {

void PictureStage::setComparison(std::optional<Comparison> comparison) {
    const QSize before = cells();
    comparison_ = std::move(comparison);
    showsOther_ = false;
    held_ = Wipe::Handle::none;
    blink_.stop();
    if (comparison_ && comparison_->mode == CompareMode::blink) blink_.start(comparison_->blinkMilliseconds);
    if (before != cells()) offset_ = {};
    requestSizes();
    takePicture();
}

QString PictureStage::noteOf(const QString& name, bool stale, std::optional<double> doubt) const {
    if (stale) return tr("%1 · being made…").arg(name);
    return doubt ? tr("%1 · doubt %2").arg(name).arg(shownNumber(*doubt, 2)) : name;
}

/// Both versions of the frame at the same place and size.
void PictureStage::drawBoth(QPainter& p, const QRectF& place, const QRectF& area) {
    const QRectF shown = place.intersected(area);
    const QImage none;
    const PreviewPicturePtr& other = others_.front();
    const QImage& theirs = other ? other->image : none;
    const bool late = isOtherStale();
    const QString now = noteOf(comparison_->now, stale_ || draft_, doubt_);
    const QString beside = noteOf(comparison_->others.front().name, late, otherDoubt());
    const auto draw = [&p, &place](const QImage& image) {
        if (!image.isNull()) p.drawImage(place, image);
    };
    switch (comparison_->mode) {
    case CompareMode::sideBySide:
    case CompareMode::fourAtOnce:
        draw(picture_);
        drawNote(p, shown, now);
        for (std::size_t i = 0; i < others_.size(); ++i)
            drawCell(p, i, place, area);
        p.setClipRect(area);
        break;
    case CompareMode::wipe:
        draw(picture_);
        if (!theirs.isNull()) {
            p.save();
            p.setClipPath(wipe_.otherSide(place), Qt::IntersectClip);
            draw(theirs);
            p.restore();
        }
        wipe_.draw(p, place);
        drawNote(p, shown, now);
        drawNote(p, shown, beside, true);
        break;
    case CompareMode::blink:
        draw(showsOther_ ? theirs : picture_);
        drawNote(p, shown, showsOther_ ? beside : now);
        break;
    case CompareMode::difference:
        if (!theirs.isNull() && !picture_.isNull()) {
            // At the size of the screen, so that a picture far larger holds nothing up.
            const double dots = devicePixelRatioF();
            QImage mixed((shown.size() * dots).toSize(), QImage::Format_RGB32);
            mixed.fill(Qt::black);
            QPainter mix(&mixed);
            const QTransform onImage(dots, 0, 0, dots, -shown.left() * dots, -shown.top() * dots);
            mix.setTransform(onImage);
            mix.setRenderHints(p.renderHints());
            mix.drawImage(place, picture_);
            mix.setCompositionMode(QPainter::CompositionMode_Difference);
            mix.drawImage(place, theirs);
            mix.resetTransform();
            mix.setCompositionMode(QPainter::CompositionMode_Plus);
            for (int gain = 1; gain < comparison_->gain; gain *= 2)
                mix.drawImage(0, 0, mixed.copy());
            mix.end();
            p.drawImage(shown, mixed);
        }
        drawNote(p, shown, late || stale_ ? beside : tr("Difference of both, × %1").arg(comparison_->gain));
        break;
    }
}

void PictureStage::drawCell(QPainter& p, std::size_t index, const QRectF& place, const QRectF& area) {
    const QPointF shift = cellShift(index + 1);
    const QRectF shown = place.intersected(area).translated(shift);
    const PreviewPicturePtr& made = others_[index];
    const bool late = !made || made->draft;
    p.setClipRect(area.translated(shift));
    if (made && !made->image.isNull()) p.drawImage(place.translated(shift), made->image);
    drawNote(p, shown,
             noteOf(comparison_->others[index].name, late, made ? made->doubt : std::optional<double>()));
    p.setBrush(Qt::NoBrush);
    p.setPen(late ? QPen(colour::flax, 2, Qt::DashLine) : QPen(QColor(0xD8, 0xD6, 0xD1), 1));
    p.drawRect(shown.adjusted(0.5, 0.5, -0.5, -0.5));
}

QSize PictureStage::cells() const {
    if (!comparison_) return {1, 1};
    if (comparison_->mode == CompareMode::sideBySide) return {2, 1};
    if (comparison_->mode != CompareMode::fourAtOnce || comparison_->others.empty()) return {1, 1};
    // In one row or in two, whichever shows them larger.
    const int count = static_cast<int>(comparison_->others.size()) + 1;
    const int half = (count + 1) / 2;
    const auto scale = [&](int columns, int rows) {
        return std::min((width() - 2 * flankMargin) / columns / aspectWidth(),
                        static_cast<double>(height()) / rows / facts_.height);
    };
    return scale(count, 1) >= scale(half, 2) ? QSize(count, 1) : QSize(half, 2);
}

QPointF PictureStage::cellShift(std::size_t index) const {
    // Whole pixels, so that all are drawn alike.
    const QSize in = cells();
    const int column = static_cast<int>(index) % in.width();
    const int row = static_cast<int>(index) / in.width();
    const int right = (width() - static_cast<int>(2 * flankMargin - cellGap)) / in.width();
    const int down = (height() + static_cast<int>(cellGap)) / in.height();
    return {static_cast<double>(right * column), static_cast<double>(down * row)};
}

bool PictureStage::isOtherStale() const {
    return std::any_of(others_.begin(), others_.end(),
                       [](const PreviewPicturePtr& made) { return !made || made->draft; });
}

void PictureStage::drawNote(QPainter& p, const QRectF& shown, const QString& note, bool atRight) const {
    p.setFont(textFont(12));
    const double wide = p.fontMetrics().horizontalAdvance(note) + 16;
    const QRectF box(QPointF(atRight ? shown.right() - wide - 8 : shown.left() + 8, shown.top() + 8),
                     QSizeF(wide, 22));
    p.fillRect(box, QColor(0x26, 0x28, 0x2B, 200));
    p.setPen(Qt::white);
    p.drawText(box, Qt::AlignCenter, note);
}

} // namespace yarngap::app
