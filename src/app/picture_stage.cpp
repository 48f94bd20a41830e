#include "app/gap_view.h"
#include "app/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double flankWidth = 128;
constexpr double flankMargin = 12;
constexpr double narrow = 620; // below this width the flanks make room for the picture

} // namespace

PictureStage::PictureStage(Player& player, Preview& preview, QWidget* parent)
    : QWidget(parent)
    , player_(player)
    , preview_(preview) {
    setObjectName(QStringLiteral("pictureStage"));
    setAccessibleName(tr("Output frame with the source frames beside it"));
    setMinimumSize(240, 120);
    connect(&preview_, &Preview::sourceReady, this, qOverload<>(&QWidget::update));
}

double PictureStage::aspectWidth() const {
    return facts_.width * facts_.pixelAspect.toDouble();
}

void PictureStage::setShot(std::shared_ptr<const FramePlan> plan, const MediaFacts& facts) {
    const bool sameMedia = facts.path == facts_.path;
    plan_ = std::move(plan);
    facts_ = facts;
    standIn_ = {};
    words_.clear();
    if (!sameMedia) {
        picture_ = {};
        shownOutput_ = -1;
        zoom_ = 0;
        offset_ = {};
    }
    requestSizes();
    update();
}

void PictureStage::setStandIn(const QImage& picture, const QString& words) {
    plan_.reset();
    facts_ = {};
    picture_ = {};
    shownOutput_ = -1;
    standIn_ = picture;
    words_ = words;
    update();
}

QRectF PictureStage::pictureArea() const {
    const double side = width() >= narrow ? flankWidth + 2 * flankMargin : flankMargin;
    return QRectF(rect()).adjusted(side, 0, -side, 0);
}

double PictureStage::fitScale() const {
    if (facts_.width < 1) return 1;
    const QRectF area = pictureArea();
    return std::max(0.01, std::min(area.width() / aspectWidth(), area.height() / facts_.height));
}

double PictureStage::zoomPercent() const {
    return 100 * (zoom_ > 0 ? zoom_ : fitScale()) * devicePixelRatioF();
}

QRectF PictureStage::pictureRect() const {
    const double scale = zoom_ > 0 ? zoom_ : fitScale();
    const QSizeF size(aspectWidth() * scale, facts_.height * scale);
    const QPointF centre = pictureArea().center() + (zoom_ > 0 ? offset_ : QPointF());
    return QRectF(centre - QPointF(size.width() / 2, size.height() / 2), size);
}

void PictureStage::requestSizes() {
    if (facts_.width < 1) return;
    // Never more pixels than the shot has: enlarging is left to the painter.
    const double dots = devicePixelRatioF();
    const QSizeF wanted = pictureRect().size() * dots;
    const double most =
        std::max(facts_.width, facts_.height) > 4096 ? 4096.0 / std::max(facts_.width, facts_.height) : 1.0;
    const Size picture{std::clamp(static_cast<int>(std::lround(wanted.width())), 1,
                                  std::max(1, static_cast<int>(aspectWidth() * most))),
                       std::clamp(static_cast<int>(std::lround(wanted.height())), 1,
                                  std::max(1, static_cast<int>(facts_.height * most)))};
    const Size flank = fitted(facts_.width, facts_.height, facts_.pixelAspect.toDouble(),
                              {static_cast<int>(flankWidth * dots), static_cast<int>(flankWidth * dots)});
    preview_.setSizes(picture, flank);
}

void PictureStage::takePicture() {
    const qint64 wanted = player_.playhead();
    trouble_.clear();
    if (const PreviewPicturePtr made = plan_ ? preview_.picture(wanted) : nullptr) {
        stale_ = false;
        draft_ = made->draft;
        trouble_ = made->trouble;
        picture_ = made->image;
        doubt_ = made->doubt;
        edgeScale_ = made->edgeScale;
        shownOutput_ = wanted;
    } else {
        stale_ = plan_ != nullptr;
        draft_ = false;
    }
    update();
    Q_EMIT shown();
}

void PictureStage::drawFlank(QPainter& p, std::optional<std::int64_t> frame, const QRectF& place,
                             double joinX) {
    if (!frame) return;
    p.setPen(QPen(QColor(0xD8, 0xD6, 0xD1), 1));
    p.drawLine(QPointF(joinX < place.left() ? place.left() : place.right(), place.center().y()),
               QPointF(joinX, place.center().y()));
    const PreviewPicturePtr picture = preview_.sourcePicture(*frame);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (picture && !picture->image.isNull()) p.drawImage(place, picture->image);
    p.setBrush(Qt::NoBrush);
    p.drawRect(place.adjusted(-0.5, -0.5, 0.5, 0.5));
    p.setPen(Qt::white);
    p.setFont(textFont(13, QFont::DemiBold));
    p.drawText(QRectF(place.left(), place.bottom() + 4, place.width(), 18), Qt::AlignCenter,
               QString::number(*frame));
    p.setPen(QColor(0xE4, 0xE2, 0xDD));
    p.setFont(textFont(12));
    p.drawText(QRectF(place.left(), place.bottom() + 20, place.width(), 18), Qt::AlignCenter,
               tr("source frame"));
}

void PictureStage::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), colour::stage);
    if (!plan_) {
        QRectF words = rect();
        if (!standIn_.isNull()) {
            const QSizeF size =
                QSizeF(standIn_.size())
                    .scaled(QRectF(rect()).adjusted(152, 0, -152, -36).size(), Qt::KeepAspectRatio);
            const QRectF place(QPointF((width() - size.width()) / 2, (height() - 36 - size.height()) / 2),
                               size);
            p.setRenderHint(QPainter::SmoothPixmapTransform);
            p.drawImage(place, standIn_);
            words.setTop(place.bottom());
        }
        p.setPen(Qt::white);
        p.setFont(textFont(15));
        p.drawText(words.adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap, words_);
        return;
    }
    const QRectF area = pictureArea();
    const QRectF place = pictureRect();
    const bool flanks = width() >= narrow && !plan_->rows.empty();
    if (flanks) {
        const auto index = static_cast<std::size_t>(
            std::clamp<qint64>(player_.playhead(), 0, static_cast<qint64>(plan_->rows.size()) - 1));
        const Flanks sides = flanksOf(plan_->rows[index], facts_.frames);
        double h = flankWidth * facts_.height / aspectWidth();
        double w = flankWidth;
        if (h > flankWidth) {
            w *= flankWidth / h;
            h = flankWidth;
        }
        const double y = area.center().y() - h / 2;
        const double left = std::max(area.left(), place.left());
        const double right = std::min(area.right(), place.right());
        drawFlank(p, sides.before, {flankMargin + (flankWidth - w) / 2, y, w, h}, left);
        drawFlank(p, sides.after, {width() - flankMargin - flankWidth + (flankWidth - w) / 2, y, w, h},
                  right);
    }
    p.setClipRect(area);
    if (!picture_.isNull()) {
        p.setRenderHint(QPainter::SmoothPixmapTransform, zoom_ < 3);
        p.drawImage(place, picture_);
    }
    p.setPen(QPen(QColor(0xD8, 0xD6, 0xD1), 1));
    if (stale_ || draft_) p.setPen(QPen(colour::flax, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(place.intersected(area.adjusted(1, 1, -1, -1)).adjusted(-0.5, -0.5, 0.5, 0.5));
    if (stale_ && shownOutput_ >= 0) {
        const QString note = shownOutput_ == player_.playhead() ? tr("still with the settings before")
                                                                : tr("still output %1").arg(shownOutput_);
        p.setFont(textFont(12));
        const QRectF box(place.intersected(area).topLeft() + QPointF(8, 8),
                         QSizeF(p.fontMetrics().horizontalAdvance(note) + 16, 22));
        p.fillRect(box, QColor(0x26, 0x28, 0x2B, 200));
        p.setPen(Qt::white);
        p.drawText(box, Qt::AlignCenter, note);
    }
}

void PictureStage::resizeEvent(QResizeEvent* resize) {
    QWidget::resizeEvent(resize);
    requestSizes();
}

void PictureStage::setFit() {
    zoom_ = 0;
    offset_ = {};
    requestSizes();
    takePicture();
}

void PictureStage::setZoom(double scale, QPointF about) {
    const QRectF before = pictureRect();
    const double was = zoom_ > 0 ? zoom_ : fitScale();
    zoom_ = std::clamp(scale, std::min(0.1, fitScale()), 16.0);
    // Keep what is under `about` where it is.
    const QPointF fromCentre = about - before.center();
    offset_ = (zoom_ > 0 && was > 0)
                  ? before.center() - pictureArea().center() + fromCentre * (1 - zoom_ / was)
                  : QPointF();
    requestSizes();
    takePicture();
}

void PictureStage::wheelEvent(QWheelEvent* wheel) {
    if (!plan_ || wheel->angleDelta().y() == 0) return;
    setZoom((zoom_ > 0 ? zoom_ : fitScale()) * std::pow(1.25, wheel->angleDelta().y() / 120.0),
            wheel->position());
}

void PictureStage::mousePressEvent(QMouseEvent* press) {
    dragFrom_ = press->position();
}

void PictureStage::mouseMoveEvent(QMouseEvent* move) {
    if (zoom_ <= 0 || !move->buttons().testFlag(Qt::LeftButton)) return;
    offset_ += move->position() - dragFrom_;
    dragFrom_ = move->position();
    update();
}

void PictureStage::mouseDoubleClickEvent(QMouseEvent*) {
    setFit();
}

} // namespace yarngap::app
