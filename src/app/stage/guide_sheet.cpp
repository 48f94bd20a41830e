#include "app/stage/guide_sheet.h"

#include "app/look/theme.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

namespace {

constexpr double nearMark = 10; // screen pixels within which a point is meant

QRectF fittedIn(const QRectF& area, double aspect) {
    QSizeF size(area.width(), area.width() / aspect);
    if (size.height() > area.height()) size = QSizeF(area.height() * aspect, area.height());
    return QRectF(area.center() - QPointF(size.width() / 2, size.height() / 2), size);
}

void drawMark(QPainter& p, const QPointF& at, const QString& number, bool isSelected, bool isLeftOut) {
    const QColor colour = isLeftOut ? colour::madder : colour::indigo;
    p.setBrush(Qt::NoBrush);
    for (const auto& [pen, width] : {std::pair{QColor(255, 255, 255, 220), 3.5}, {colour, 1.5}}) {
        p.setPen(QPen(pen, width, isLeftOut ? Qt::DashLine : Qt::SolidLine));
        p.drawEllipse(at, 6, 6);
        p.drawLine(at - QPointF(11, 0), at - QPointF(3, 0));
        p.drawLine(at + QPointF(3, 0), at + QPointF(11, 0));
        p.drawLine(at - QPointF(0, 11), at - QPointF(0, 3));
        p.drawLine(at + QPointF(0, 3), at + QPointF(0, 11));
    }
    const QRectF label(at + QPointF(8, -22), QSizeF(18, 16));
    p.setPen(Qt::NoPen);
    p.setBrush(isSelected ? colour : colour::paper);
    p.drawRoundedRect(label, 3, 3);
    p.setPen(isSelected ? QColor(Qt::white) : colour);
    p.setFont(textFont(11, QFont::DemiBold));
    p.drawText(label, Qt::AlignCenter, number);
}

} // namespace

GuidePane::GuidePane(GuideEnd end, int width, int height, double aspect, QWidget* parent)
    : QWidget(parent)
    , end_(end)
    , width_(width)
    , height_(height)
    , aspect_(aspect) {
    setObjectName(end == GuideEnd::from ? QStringLiteral("guideFrom") : QStringLiteral("guideTo"));
    setAccessibleName(end == GuideEnd::from ? tr("Source frame before") : tr("Source frame after"));
    setMouseTracking(true);
    setCursor(Qt::CrossCursor);
    setMinimumSize(120, 90);
}

void GuidePane::setPicture(const QImage& picture) {
    picture_ = picture;
    update();
}

void GuidePane::setPoints(const std::vector<PicturePoint>& points, std::optional<std::size_t> selected,
                          const std::optional<PicturePoint>& pending,
                          const std::vector<std::size_t>& leftOut) {
    if (!held_) points_ = points; // what the hand holds stays in the hand
    selected_ = selected;
    pending_ = pending;
    leftOut_ = leftOut;
    update();
}

QRectF GuidePane::place() const {
    constexpr double captionHeight = 22;
    const QRectF fit = fittedIn(QRectF(rect()).adjusted(0, 0, 0, -captionHeight), aspect_);
    const QSizeF size = fit.size() * zoom_;
    return QRectF(fit.center() - QPointF(centre_.x() * size.width(), centre_.y() * size.height()), size);
}

QPointF GuidePane::toScreen(const PicturePoint& p) const {
    const QRectF r = place();
    return {r.left() + p.x / width_ * r.width(), r.top() + p.y / height_ * r.height()};
}

PicturePoint GuidePane::toPicture(const QPointF& at) const {
    const QRectF r = place();
    return {std::clamp((at.x() - r.left()) / std::max(1.0, r.width()), 0.0, 1.0) * width_,
            std::clamp((at.y() - r.top()) / std::max(1.0, r.height()), 0.0, 1.0) * height_};
}

std::optional<std::size_t> GuidePane::pointAt(const QPointF& at) const {
    std::optional<std::size_t> best;
    double least = nearMark;
    for (std::size_t i = 0; i < points_.size(); ++i) {
        const QPointF off = toScreen(points_[i]) - at;
        if (const double d = std::hypot(off.x(), off.y()); d <= least) {
            least = d;
            best = i;
        }
    }
    return best;
}

void GuidePane::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    constexpr double captionHeight = 22;
    const QRectF area = QRectF(rect()).adjusted(0, 0, 0, -captionHeight);
    const QRectF r = place();
    p.save();
    p.setClipRect(area);
    if (picture_.isNull())
        p.fillRect(r, colour::stage.darker(115));
    else
        p.drawImage(r, picture_);
    p.setRenderHint(QPainter::Antialiasing);
    for (std::size_t i = 0; i < points_.size(); ++i)
        drawMark(p, toScreen(points_[i]), QString::number(i + 1), selected_ == i,
                 std::ranges::find(leftOut_, i) != leftOut_.end());
    if (pending_) drawMark(p, toScreen(*pending_), QString::number(points_.size() + 1), true, false);
    p.restore();
    drawLoupe(p);
    p.setPen(QColor(0xE4, 0xE2, 0xDD));
    p.setFont(textFont(12));
    const double top = std::min(r.bottom() + 2, height() - captionHeight);
    p.drawText(QRectF(0, top, width(), captionHeight), Qt::AlignCenter, caption_);
}

void GuidePane::drawLoupe(QPainter& p) const {
    if (!pointer_ || picture_.isNull() || panning_) return;
    const PicturePoint at = held_ ? points_.at(*held_) : toPicture(*pointer_);
    constexpr double side = 132;
    constexpr double pixels = 22; // of the shot, across
    // In the corner away from the pointer.
    const QRectF loupe(pointer_->x() < width() / 2.0 ? width() - side - 6 : 6, 6, side, side);
    const double perX = static_cast<double>(picture_.width()) / width_;
    const double perY = static_cast<double>(picture_.height()) / height_;
    const QRectF source((at.x - pixels / 2) * perX, (at.y - pixels / 2) * perY, pixels * perX, pixels * perY);
    p.save();
    p.fillRect(loupe, colour::stage);
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(loupe, picture_, source);
    p.setPen(QPen(QColor(255, 255, 255, 200), 1));
    const QPointF c = loupe.center();
    p.drawLine(QPointF(loupe.left(), c.y()), QPointF(c.x() - 6, c.y()));
    p.drawLine(QPointF(c.x() + 6, c.y()), QPointF(loupe.right(), c.y()));
    p.drawLine(QPointF(c.x(), loupe.top()), QPointF(c.x(), c.y() - 6));
    p.drawLine(QPointF(c.x(), c.y() + 6), QPointF(c.x(), loupe.bottom()));
    p.setPen(QPen(colour::paper, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRect(loupe);
    p.restore();
}

void GuidePane::mousePressEvent(QMouseEvent* press) {
    if (press->button() != Qt::LeftButton) return press->ignore();
    if (parentWidget()) parentWidget()->setFocus();
    pressed_ = press->position();
    moved_ = false;
    held_ = pointAt(pressed_);
    panning_ = false;
    if (held_) Q_EMIT grabbed(*held_);
}

void GuidePane::mouseMoveEvent(QMouseEvent* move) {
    pointer_ = move->position();
    if (move->buttons().testFlag(Qt::LeftButton)) {
        const QPointF by = move->position() - pressed_;
        constexpr double threshold = 4;
        if (std::hypot(by.x(), by.y()) > threshold) moved_ = true;
        if (held_ && moved_) {
            points_.at(*held_) = toPicture(move->position());
        } else if (!held_ && moved_ && zoom_ > 1) {
            panning_ = true;
            const QRectF r = place();
            centre_ -= QPointF(by.x() / r.width(), by.y() / r.height());
            pressed_ = move->position();
        }
    }
    update();
}

void GuidePane::mouseReleaseEvent(QMouseEvent* release) {
    const auto held = std::exchange(held_, std::nullopt);
    if (held && moved_)
        Q_EMIT dragged(*held, points_.at(*held));
    else if (!held && !panning_ && release->button() == Qt::LeftButton &&
             place().contains(release->position()))
        Q_EMIT placed(toPicture(release->position()));
    panning_ = false;
    update();
}

void GuidePane::wheelEvent(QWheelEvent* wheel) {
    if (wheel->angleDelta().y() == 0) return;
    const PicturePoint about = toPicture(wheel->position());
    constexpr double most = 12;
    zoom_ = std::clamp(zoom_ * std::pow(1.25, wheel->angleDelta().y() / 120.0), 1.0, most);
    if (zoom_ <= 1) {
        centre_ = {0.5, 0.5};
    } else { // what is under the pointer stays there
        const QPointF off = wheel->position() - toScreen(about);
        const QRectF r = place();
        centre_ -= QPointF(off.x() / r.width(), off.y() / r.height());
    }
    update();
}

void GuidePane::leaveEvent(QEvent* left) {
    QWidget::leaveEvent(left);
    pointer_.reset();
    update();
}

GuidedPicture::GuidedPicture(double aspect, QWidget* parent)
    : QWidget(parent)
    , aspect_(aspect) {
    setObjectName(QStringLiteral("guidedPicture"));
    setAccessibleName(tr("The frame made by the guide, with its vectors"));
    setMinimumSize(120, 90);
}

void GuidedPicture::setPicture(const QImage& picture, const PreviewInsightPtr& insight, bool isStale) {
    if (!picture.isNull()) picture_ = picture;
    insight_ = isStale ? nullptr : insight;
    isStale_ = isStale;
    update();
}

void GuidedPicture::paintEvent(QPaintEvent*) {
    QPainter p(this);
    constexpr double captionHeight = 22;
    const QRectF place = fittedIn(QRectF(rect()).adjusted(0, 0, 0, -captionHeight), aspect_);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (picture_.isNull())
        p.fillRect(place, colour::stage.darker(115));
    else
        p.drawImage(place, picture_);
    if (insight_) {
        p.setRenderHint(QPainter::Antialiasing);
        drawOverlay(p, Overlay::vectors, *insight_, place, place);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(isStale_ ? QPen(colour::flax, 2, Qt::DashLine) : QPen(QColor(0xD8, 0xD6, 0xD1), 1));
    p.drawRect(place.adjusted(0.5, 0.5, -0.5, -0.5));
    p.setPen(QColor(0xE4, 0xE2, 0xDD));
    p.setFont(textFont(12));
    const double top = std::min(place.bottom() + 2, height() - captionHeight);
    p.drawText(QRectF(0, top, width(), captionHeight), Qt::AlignCenter,
               isStale_ ? tr("being made…") : caption_);
}

GuideSheet::GuideSheet(int width, int height, double aspect, QWidget* parent)
    : QWidget(parent)
    , width_(width)
    , height_(height)
    , hint_(new QLabel)
    , from_(new GuidePane(GuideEnd::from, width, height, aspect, this))
    , made_(new GuidedPicture(aspect, this))
    , to_(new GuidePane(GuideEnd::to, width, height, aspect, this)) {
    setObjectName(QStringLiteral("guideSheet"));
    setAccessibleName(tr("Guide"));
    setFocusPolicy(Qt::StrongFocus);
    hint_->setObjectName(QStringLiteral("guideHint"));
    hint_->setWordWrap(true);
    hint_->setAlignment(Qt::AlignCenter);
    hint_->setStyleSheet(QStringLiteral("color: white; font-size: 13px;"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(12, 0, 12, 0);
    layout->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(12);
    row->addWidget(from_, 1);
    row->addWidget(to_, 1);
    layout->addLayout(row, 5);
    layout->addWidget(hint_);
    layout->addWidget(made_, 3);
    connectPane(from_, GuideEnd::from);
    connectPane(to_, GuideEnd::to);
    refresh();
}

void GuideSheet::connectPane(GuidePane* pane, GuideEnd end) {
    connect(pane, &GuidePane::placed, this, [this, end](const PicturePoint& p) { place(end, p); });
    connect(pane, &GuidePane::grabbed, this, [this, end](std::size_t pair) {
        selected_ = GuidePlace{pair, end};
        refresh();
    });
    connect(pane, &GuidePane::dragged, this, [this, end](std::size_t pair, const PicturePoint& p) {
        move({pair, end}, p);
    });
}

void GuideSheet::setGuide(const Guide& guide) {
    if (guide.first != guide_.first || guide.last != guide_.last) {
        pending_.reset();
        selected_.reset();
    }
    guide_ = guide;
    leftOut_.clear(); // until it is known of these
    if (selected_ && selected_->pair >= guide_.pairs.size()) selected_.reset();
    made_->setCaption(guide.pairs.empty() ? tr("between them, as it is") : tr("between them, as guided"));
    from_->setCaption(tr("source frame %1").arg(guide.first));
    to_->setCaption(tr("source frame %1").arg(guide.last));
    refresh();
}

void GuideSheet::setLeftOut(const std::vector<std::size_t>& pairs) {
    leftOut_ = pairs;
    refresh();
}

void GuideSheet::setPictures(const QImage& from, const QImage& to) {
    if (!from.isNull()) from_->setPicture(from);
    if (!to.isNull()) to_->setPicture(to);
}

void GuideSheet::setMade(const QImage& picture, const PreviewInsightPtr& insight, bool isStale) {
    made_->setPicture(picture, insight, isStale);
}

PicturePoint& GuideSheet::point(Guide& guide, const GuidePlace& at) const {
    GuidePair& pair = guide.pairs.at(at.pair);
    return at.end == GuideEnd::from ? pair.from : pair.to;
}

void GuideSheet::place(GuideEnd end, const PicturePoint& p) {
    if (guide_.pairs.size() >= Guide::mostPairs) return;
    if (end == GuideEnd::from) {
        pending_ = p;
        selected_.reset();
        return refresh();
    }
    if (!pending_) return refresh(); // the left one comes first
    Guide changed = guide_;
    changed.pairs.push_back({*pending_, p});
    pending_.reset();
    selected_ = GuidePlace{changed.pairs.size() - 1, GuideEnd::to};
    Q_EMIT edited(changed, tr("pair of points"));
}

void GuideSheet::move(const GuidePlace& at, const PicturePoint& to) {
    Guide changed = guide_;
    point(changed, at) = {std::clamp<double>(to.x, 0, width_), std::clamp<double>(to.y, 0, height_)};
    Q_EMIT edited(changed, tr("point of guide moved"));
}

void GuideSheet::remove() {
    if (pending_) {
        pending_.reset();
        return refresh();
    }
    if (!selected_) return;
    Guide changed = guide_;
    changed.pairs.erase(changed.pairs.begin() + static_cast<std::ptrdiff_t>(selected_->pair));
    selected_.reset();
    Q_EMIT edited(changed, tr("pair of points taken out"));
}

void GuideSheet::step(int direction) {
    const auto points = static_cast<std::ptrdiff_t>(2 * guide_.pairs.size());
    if (points == 0) return;
    std::ptrdiff_t now = direction > 0 ? -1 : 0;
    if (selected_)
        now = 2 * static_cast<std::ptrdiff_t>(selected_->pair) + (selected_->end == GuideEnd::to ? 1 : 0);
    now = (now + direction + points) % points;
    selected_ = GuidePlace{static_cast<std::size_t>(now / 2), now % 2 == 1 ? GuideEnd::to : GuideEnd::from};
    refresh();
}

void GuideSheet::keyPressEvent(QKeyEvent* key) {
    if (key->modifiers().testFlag(Qt::ControlModifier) && selected_) {
        const double by = key->modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1;
        const double dx = key->key() == Qt::Key_Left ? -by : key->key() == Qt::Key_Right ? by : 0;
        const double dy = key->key() == Qt::Key_Up ? -by : key->key() == Qt::Key_Down ? by : 0;
        if (dx != 0 || dy != 0) {
            const PicturePoint p = point(guide_, *selected_);
            return move(*selected_, {p.x + dx, p.y + dy});
        }
    }
    switch (key->key()) {
    case Qt::Key_Escape:
    case Qt::Key_Return:
    case Qt::Key_Enter:
        Q_EMIT left();
        return;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        return remove();
    case Qt::Key_Insert: {
        Guide changed = guide_;
        const PicturePoint middle{width_ / 2.0, height_ / 2.0};
        changed.pairs.push_back({middle, middle});
        selected_ = GuidePlace{changed.pairs.size() - 1, GuideEnd::from};
        Q_EMIT edited(changed, tr("pair of points"));
        return;
    }
    case Qt::Key_PageDown:
        return step(1);
    case Qt::Key_PageUp:
        return step(-1);
    default:
        QWidget::keyPressEvent(key);
    }
}

void GuideSheet::refresh() {
    std::vector<PicturePoint> from;
    std::vector<PicturePoint> to;
    for (const GuidePair& pair : guide_.pairs) {
        from.push_back(pair.from);
        to.push_back(pair.to);
    }
    const auto selectedOn = [&](GuideEnd end) {
        return selected_ && selected_->end == end ? std::optional(selected_->pair) : std::nullopt;
    };
    from_->setPoints(from, selectedOn(GuideEnd::from), pending_, leftOut_);
    to_->setPoints(to, selectedOn(GuideEnd::to), std::nullopt, leftOut_);
    QString words;
    if (pending_)
        words = tr("Now click where it has gone in source frame %1. Esc leaves.").arg(guide_.last);
    else if (guide_.pairs.empty())
        words = tr("Click a point on source frame %1 that you find again on %2. Esc leaves.")
                    .arg(guide_.first)
                    .arg(guide_.last);
    else
        words = tr("Click another point, or drag one to move it; Delete takes a pair out. Two or three are "
                   "enough. Esc leaves.");
    if (!leftOut_.empty()) {
        QStringList numbers;
        for (const std::size_t pair : leftOut_)
            numbers << QString::number(pair + 1);
        words = tr("Pairs %1 contradict others and are left out; those fit the pictures better.", nullptr,
                   static_cast<int>(leftOut_.size()))
                    .arg(numbers.join(QStringLiteral(", "))) +
                QLatin1Char(' ') + words;
    }
    hint_->setText(words);
    setAccessibleDescription(words);
}

} // namespace yarngap::app
