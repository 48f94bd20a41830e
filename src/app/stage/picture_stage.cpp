#include "app/stage/picture_stage.h"
#include "app/look/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double flankWidth = 128;
constexpr double narrow = 620; // below this width the flanks make room for the picture

/// The largest place of a shape, width over height, in the middle of another; 0: the whole.
QRectF shapedIn(const QRectF& place, double shape) {
    if (shape <= 0 || place.height() <= 0) return place;
    QSizeF size(place.width(), place.width() / shape);
    if (size.height() > place.height()) size = {place.height() * shape, place.height()};
    return {place.center() - QPointF(size.width() / 2, size.height() / 2), size};
}

} // namespace

PictureStage::PictureStage(Player& player, Preview& preview, QWidget* parent)
    : QWidget(parent)
    , player_(player)
    , preview_(preview) {
    setObjectName(QStringLiteral("pictureStage"));
    setAccessibleName(tr("Output frame with the source frames beside it"));
    setMinimumSize(240, 120);
    setMouseTracking(true);
    setFocusPolicy(Qt::TabFocus); // so that a screen reader can stay on the frame
    connect(&blink_, &QTimer::timeout, this, [this] {
        showsOther_ = !showsOther_;
        update();
    });
    connect(&preview_, &Preview::sourceReady, this, qOverload<>(&QWidget::update));
    connect(&preview_, &Preview::insightReady, this, [this](qint64 output) {
        if (output == player_.playhead()) takePicture();
    });
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
    // Beside each other, two versions need the room of the source frames; the right one mirrors the left.
    if (const QSize in = cells(); in.width() * in.height() > 1) {
        const QPointF next = cellShift(static_cast<std::size_t>(in.width()) + 1); // one on, one down
        return {flankMargin, 0, next.x() - cellGap, in.height() > 1 ? next.y() - cellGap : height()};
    }
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
    if (instead_) instead_->setSizes(picture, flank);
    if (comparison_)
        for (const Comparison::Other& other : comparison_->others)
            other.preview->setSizes(picture, flank);
}

void PictureStage::takePicture() {
    const qint64 wanted = player_.playhead();
    trouble_.clear();
    remark_.clear();
    if (const PreviewPicturePtr made = plan_ ? preview_.picture(wanted) : nullptr) {
        stale_ = false;
        draft_ = made->draft;
        trouble_ = made->trouble;
        remark_ = made->remark;
        picture_ = made->image;
        doubt_ = made->doubt;
        edgeScale_ = made->edgeScale;
        shownOutput_ = wanted;
    } else {
        stale_ = plan_ != nullptr;
        draft_ = false;
    }
    others_.clear();
    if (comparison_)
        for (const Comparison::Other& other : comparison_->others)
            others_.push_back(plan_ ? other.preview->picture(wanted) : nullptr);
    // Of the frame that is to be seen: what a draft or an old picture is made of is not told.
    insight_ = plan_ && !stale_ && !draft_ ? preview_.insight(wanted) : nullptr;
    update();
    Q_EMIT shown();
    Q_EMIT probed();
}

void PictureStage::setOverlay(Overlay overlay) {
    overlay_ = overlay;
    takePicture();
}

Flanks PictureStage::sides() const {
    if (!plan_ || plan_->rows.empty()) return {};
    const auto index = static_cast<std::size_t>(
        std::clamp<qint64>(player_.playhead(), 0, static_cast<qint64>(plan_->rows.size()) - 1));
    return flanksOf(plan_->rows[index], facts_.frames);
}

void PictureStage::flick(int direction) {
    if (flick_ == direction) return;
    flick_ = direction;
    update();
}

void PictureStage::showInstead(Preview* version, const QString& name, double shape) {
    instead_ = version;
    insteadShape_ = shape;
    insteadName_ = name;
    requestSizes();
    update();
}

void PictureStage::point(QPointF at) {
    const QRectF first = pictureArea();
    const std::size_t versions = cells() == QSize(1, 1) ? 0 : others_.size();
    for (std::size_t i = 1; i <= versions; ++i)
        if (first.translated(cellShift(i)).contains(at)) {
            at -= cellShift(i);
            break;
        }
    const QRectF place = pictureRect();
    std::optional<QPoint> pixel;
    if (plan_ && place.contains(at) && pictureArea().contains(at))
        pixel = QPoint(std::min(facts_.width - 1,
                                static_cast<int>((at.x() - place.left()) * facts_.width / place.width())),
                       std::min(facts_.height - 1,
                                static_cast<int>((at.y() - place.top()) * facts_.height / place.height())));
    if (pixel == pointedAt_) return;
    pointedAt_ = pixel;
    Q_EMIT probed();
}

void PictureStage::leaveEvent(QEvent* left) {
    QWidget::leaveEvent(left);
    pointedAt_.reset();
    Q_EMIT probed();
}

/// Lines between pixels, where each is large enough to be told apart.
void PictureStage::drawPixelGrid(QPainter& p, const QRectF& place, const QRectF& area) const {
    const double across = place.width() / facts_.width;
    const double down = place.height() / facts_.height;
    constexpr double visible = 8;
    if (std::min(across, down) < visible) return;
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(QColor(128, 128, 128, 90));
    const QRectF shown = place.intersected(area);
    for (int x = static_cast<int>((shown.left() - place.left()) / across);
         x * across < shown.right() - place.left(); ++x)
        p.drawLine(QPointF(place.left() + x * across, shown.top()),
                   QPointF(place.left() + x * across, shown.bottom()));
    for (int y = static_cast<int>((shown.top() - place.top()) / down);
         y * down < shown.bottom() - place.top(); ++y)
        p.drawLine(QPointF(shown.left(), place.top() + y * down),
                   QPointF(shown.right(), place.top() + y * down));
}

void PictureStage::setMarks(const Marks& marks) {
    marks_ = marks;
    update();
}

void PictureStage::drawMarks(QPainter& p, const QRectF& place) const {
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setBrush(Qt::NoBrush);
    // Light over dark shows on every picture.
    const auto drawTwice = [&](const auto& draw) {
        p.setPen(QPen(QColor(0, 0, 0, 120), 3));
        draw();
        p.setPen(QPen(QColor(255, 255, 255, 200), 1));
        draw();
    };
    if (marks_.safeAreas)
        for (const double share : {0.93, 0.90}) {
            const QSizeF size = place.size() * share;
            drawTwice([&] {
                p.drawRect(QRectF(place.center() - QPointF(size.width() / 2, size.height() / 2), size));
            });
        }
    if (marks_.thirds)
        for (int i = 1; i < 3; ++i) {
            const double x = place.left() + place.width() * i / 3;
            const double y = place.top() + place.height() * i / 3;
            drawTwice([&] {
                p.drawLine(QPointF(x, place.top()), QPointF(x, place.bottom()));
                p.drawLine(QPointF(place.left(), y), QPointF(place.right(), y));
            });
        }
    if (marks_.centre) {
        constexpr double arm = 14;
        const QPointF c = place.center();
        drawTwice([&] {
            p.drawLine(c - QPointF(arm, 0), c + QPointF(arm, 0));
            p.drawLine(c - QPointF(0, arm), c + QPointF(0, arm));
        });
    }
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
    drawAll(p);
    p.setClipping(false);
    if (hasFocus()) drawFocus(p, rect());
}

void PictureStage::drawAll(QPainter& p) {
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
    const Flanks beside = sides();
    if (const auto [before, after] = flankPlaces(); !before.isEmpty()) {
        drawFlank(p, beside.before, before, std::max(area.left(), place.left()));
        drawFlank(p, beside.after, after, std::min(area.right(), place.right()));
    }
    p.setClipRect(area);
    const std::optional<std::int64_t> other = flick_ < 0   ? beside.before
                                              : flick_ > 0 ? beside.after
                                                           : std::nullopt;
    PreviewPicturePtr source = other ? preview_.largeSourcePicture(*other) : nullptr;
    if (other && !source) source = preview_.sourcePicture(*other); // small, for a moment
    flicked_ = source ? other : std::nullopt;
    const PreviewPicturePtr instead = instead_ && !source ? instead_->picture(player_.playhead()) : nullptr;
    isInsteadShown_ = instead && !instead->image.isNull();
    p.setRenderHint(QPainter::SmoothPixmapTransform, zoom_ < 3);
    if (source)
        p.drawImage(place, source->image);
    else if (isInsteadShown_)
        p.drawImage(shapedIn(place, insteadShape_), instead->image);
    else if (comparison_)
        drawBoth(p, place, area);
    else if (!picture_.isNull())
        p.drawImage(place, picture_);
    if (insight_ && !source && !isInsteadShown_ && !comparison_ && overlay_ != Overlay::none)
        drawOverlay(p, overlay_, *insight_, place, area);
    drawPixelGrid(p, place, area);
    if (!source) drawMarks(p, place);
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(QPen(QColor(0xD8, 0xD6, 0xD1), 1));
    if (!source && (stale_ || draft_)) p.setPen(QPen(colour::flax, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    const QRectF shown = place.intersected(area);
    p.drawRect(place.intersected(area.adjusted(1, 1, -1, -1)).adjusted(-0.5, -0.5, 0.5, 0.5));
    if (source)
        drawNote(p, shown, tr("source frame %1").arg(*other));
    else if (instead_)
        drawNote(p, shown, isInsteadShown_ ? insteadName_ : tr("%1: being made…").arg(insteadName_));
    else if (stale_ && shownOutput_ >= 0 && !comparison_)
        drawNote(p, shown,
                 shownOutput_ == player_.playhead() ? tr("still with the settings before")
                                                    : tr("still output %1").arg(shownOutput_));
}

std::pair<QRectF, QRectF> PictureStage::flankPlaces() const {
    if (width() < narrow || !plan_ || plan_->rows.empty() || cells() != QSize(1, 1)) return {};
    const QSizeF size =
        QSizeF(aspectWidth(), facts_.height).scaled({flankWidth, flankWidth}, Qt::KeepAspectRatio);
    const double y = pictureArea().center().y() - size.height() / 2;
    const double inset = flankMargin + (flankWidth - size.width()) / 2;
    return {{{inset, y}, size}, {{width() - inset - size.width(), y}, size}};
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
    held_ = Wipe::Handle::none;
    if (comparison_ && comparison_->mode == CompareMode::wipe && press->button() == Qt::LeftButton)
        held_ = wipe_.handleAt(pictureRect(), press->position());
    dragFrom_ = press->position();
}

void PictureStage::mouseMoveEvent(QMouseEvent* move) {
    point(move->position());
    if (held_ != Wipe::Handle::none) {
        wipe_.drag(pictureRect(), held_, move->position());
        update();
        return;
    }
    if (zoom_ <= 0 || !move->buttons().testFlag(Qt::LeftButton)) return;
    offset_ += move->position() - dragFrom_;
    dragFrom_ = move->position();
    update();
}

void PictureStage::mouseReleaseEvent(QMouseEvent*) {
    held_ = Wipe::Handle::none;
}

void PictureStage::mouseDoubleClickEvent(QMouseEvent*) {
    setFit();
}

} // namespace yarngap::app
