#include "app/stage/hold_overlay.h"

#include "app/look/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double nearPoint = 9;    // screen pixels
constexpr double badQuality = 0.9; // quality, below it a point is marked
constexpr double shortestBox = 8;  // screen pixels; less is a click

} // namespace

HoldOverlay::HoldOverlay(std::function<QRectF()> placeOfPicture, int width, int height, bool isSecond,
                         QWidget* stage)
    : QWidget(stage)
    , placeOfPicture_(std::move(placeOfPicture))
    , width_(width)
    , height_(height)
    , isSecond_(isSecond) {
    setObjectName(QStringLiteral("holdOverlay"));
    setAccessibleName(isSecond ? tr("Second point to hold still") : tr("Point to hold still"));
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::CrossCursor);
    setMouseTracking(true);
    setGeometry(stage->rect());
    stage->installEventFilter(this);
}

bool HoldOverlay::eventFilter(QObject* watched, QEvent* happened) {
    if (happened->type() == QEvent::Resize) setGeometry(parentWidget()->rect());
    return QWidget::eventFilter(watched, happened);
}

void HoldOverlay::show(const FollowedPath& path, double reach, std::optional<std::int64_t> frame) {
    if (frame != frame_ || path != path_) {
        dragged_.reset();
        pending_.reset();
        if (frame != frame_) pressed_.reset();
    }
    path_ = path;
    reach_ = reach;
    frame_ = frame;
    setVisible(true);
    setAccessibleDescription(hint());
    update();
    Q_EMIT hintChanged();
}

QString HoldOverlay::hint() const {
    if (!frame_)
        return tr(
            "This frame lies between two source frames. Shift+Left and Shift+Right go to one; Esc leaves.");
    if (path_.empty())
        return tr("Click a point that is easy to tell, or drag a box around the thing to hold. By keys: "
                  "Ctrl+arrows move a "
                  "cross, Enter chooses. Esc leaves.");
    if (!here())
        return tr(
            "The point was not found in this frame. Click where it is; it is followed again from there.");
    return tr(
        "Drag the point where it is wrong: it is followed again from there. Click elsewhere for another. Esc "
        "leaves.");
}

QPointF HoldOverlay::toStage(const PicturePoint& p) const {
    const QRectF place = placeOfPicture_();
    return {place.left() + p.x / width_ * place.width(), place.top() + p.y / height_ * place.height()};
}

PicturePoint HoldOverlay::toPicture(const QPointF& p) const {
    const QRectF place = placeOfPicture_();
    return {(p.x() - place.left()) / std::max(1.0, place.width()) * width_,
            (p.y() - place.top()) / std::max(1.0, place.height()) * height_};
}

bool HoldOverlay::isInside(const PicturePoint& p) const {
    return p.x >= 0 && p.y >= 0 && p.x <= width_ && p.y <= height_;
}

const FollowedPoint* HoldOverlay::here() const {
    return frame_ ? pointOf(path_, *frame_) : nullptr;
}

void HoldOverlay::drawPath(QPainter& p) const {
    for (std::size_t i = 1; i < path_.size(); ++i) {
        const bool isBridged = path_[i].frame - path_[i - 1].frame > 1;
        const QPointF a = toStage(path_[i - 1].at);
        const QPointF b = toStage(path_[i].at);
        p.setPen(QPen(QColor(0, 0, 0, 120), 3));
        p.drawLine(a, b);
        p.setPen(QPen(Qt::white, 1, isBridged ? Qt::DashLine : Qt::SolidLine));
        p.drawLine(a, b);
    }
    for (const FollowedPoint& point : path_) {
        p.setPen(Qt::NoPen);
        p.setBrush(point.isPut                  ? colour::indigo
                   : point.quality < badQuality ? colour::madder
                                                : QColor(Qt::white));
        p.drawEllipse(toStage(point.at), point.isPut ? 3.5 : 1.5, point.isPut ? 3.5 : 1.5);
    }
}

void HoldOverlay::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    drawPath(p);
    const auto crossAt = [&](const PicturePoint& at, const QColor& colour) {
        const QPointF c = toStage(at);
        for (const QPen& pen : {QPen(QColor(0, 0, 0, 150), 3), QPen(colour, 1.5)}) {
            p.setPen(pen);
            p.drawLine(c - QPointF(10, 0), c - QPointF(3, 0));
            p.drawLine(c + QPointF(3, 0), c + QPointF(10, 0));
            p.drawLine(c - QPointF(0, 10), c - QPointF(0, 3));
            p.drawLine(c + QPointF(0, 3), c + QPointF(0, 10));
        }
    };
    const auto boxAround = [&](const PicturePoint& at, double reach) {
        const QRectF box(toStage({at.x - reach, at.y - reach}), toStage({at.x + reach, at.y + reach}));
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(QColor(0, 0, 0, 150), 3));
        p.drawRect(box);
        p.setPen(QPen(Qt::white, 1));
        p.drawRect(box);
    };
    if (pressed_) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(Qt::white, 1, Qt::DashLine));
        p.drawRect(QRectF(toStage(*pressed_), toStage(pointer_)).normalized());
    }
    const FollowedPoint* now = here();
    if (dragged_ || pending_ || now) {
        const PicturePoint at = dragged_ ? *dragged_ : pending_ ? *pending_ : now->at;
        boxAround(at, reach_);
        crossAt(at, Qt::white);
    }
    if (cross_) crossAt(*cross_, QColor(0xF0, 0xC0, 0x4A));
}

void HoldOverlay::mousePressEvent(QMouseEvent* press) {
    if (press->button() != Qt::LeftButton || !frame_) return press->ignore();
    setFocus();
    cross_.reset();
    pointer_ = toPicture(press->position());
    if (const FollowedPoint* now = here()) {
        const QPointF off = toStage(now->at) - press->position();
        if (std::hypot(off.x(), off.y()) < nearPoint) {
            dragged_ = now->at;
            return;
        }
    }
    if (!isInside(pointer_)) return press->ignore();
    pressed_ = pointer_;
}

void HoldOverlay::mouseMoveEvent(QMouseEvent* moved) {
    const PicturePoint before = pointer_;
    pointer_ = toPicture(moved->position());
    if (dragged_) *dragged_ = {dragged_->x + pointer_.x - before.x, dragged_->y + pointer_.y - before.y};
    if (dragged_ || pressed_) update();
}

void HoldOverlay::finish(const PicturePoint& at, double reach) {
    // A path that is lost here goes on from the click; else another thing is meant.
    pending_ = at;
    reach_ = reach;
    if (!path_.empty() && !here())
        Q_EMIT put(at);
    else
        Q_EMIT chosen(at, reach);
}

void HoldOverlay::mouseReleaseEvent(QMouseEvent* release) {
    if (dragged_) {
        const PicturePoint at = *dragged_;
        dragged_.reset();
        const FollowedPoint* now = here();
        if (now && std::hypot(at.x - now->at.x, at.y - now->at.y) > 1e-3) {
            pending_ = at;
            Q_EMIT put(at);
        }
        update();
        return;
    }
    if (!pressed_) return release->ignore();
    const PicturePoint from = *pressed_;
    pressed_.reset();
    const PicturePoint to = toPicture(release->position());
    const QPointF box = toStage(to) - toStage(from);
    update();
    if (std::hypot(box.x(), box.y()) < shortestBox) return finish(from, usualReach(width_));
    const double reach = std::max(std::abs(to.x - from.x), std::abs(to.y - from.y)) / 2;
    finish({(from.x + to.x) / 2, (from.y + to.y) / 2}, std::clamp(reach, Hold::least, Hold::most));
}

void HoldOverlay::keyPressEvent(QKeyEvent* press) {
    const double step = press->modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1;
    const auto move = [&](double x, double y) {
        if (!cross_) cross_ = here() ? here()->at : PicturePoint{width_ / 2.0, height_ / 2.0};
        *cross_ = {std::clamp(cross_->x + x, 0.0, static_cast<double>(width_)),
                   std::clamp(cross_->y + y, 0.0, static_cast<double>(height_))};
        update();
    };
    const bool isArrow = press->key() == Qt::Key_Left || press->key() == Qt::Key_Right ||
                         press->key() == Qt::Key_Up || press->key() == Qt::Key_Down;
    if (isArrow && !press->modifiers().testFlag(Qt::ControlModifier)) return QWidget::keyPressEvent(press);
    switch (press->key()) {
    case Qt::Key_Escape:
        Q_EMIT left();
        return;
    case Qt::Key_Left:
        return move(-step, 0);
    case Qt::Key_Right:
        return move(step, 0);
    case Qt::Key_Up:
        return move(0, -step);
    case Qt::Key_Down:
        return move(0, step);
    case Qt::Key_Return:
    case Qt::Key_Enter: {
        if (!cross_ || !frame_) return;
        const PicturePoint at = *cross_;
        cross_.reset();
        pending_ = at;
        if (!path_.empty())
            Q_EMIT put(at);
        else
            Q_EMIT chosen(at, usualReach(width_));
        return;
    }
    default:
        return QWidget::keyPressEvent(press);
    }
}

} // namespace yarngap::app
