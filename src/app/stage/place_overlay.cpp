#include "app/stage/place_overlay.h"

#include "app/look/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {
constexpr double nearCorner = 10; // screen pixels
} // namespace

PlaceOverlay::PlaceOverlay(std::function<QRectF()> placeOfFrame, QWidget* stage)
    : QWidget(stage)
    , placeOfFrame_(std::move(placeOfFrame)) {
    setObjectName(QStringLiteral("placeOverlay"));
    setAccessibleName(tr("Place of the picture in its frame"));
    setAccessibleDescription(hint());
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::SizeAllCursor);
    setMouseTracking(true);
    setGeometry(stage->rect());
    stage->installEventFilter(this);
}

bool PlaceOverlay::eventFilter(QObject* watched, QEvent* happened) {
    if (happened->type() == QEvent::Resize) setGeometry(parentWidget()->rect());
    return QWidget::eventFilter(watched, happened);
}

void PlaceOverlay::show(const Place& place, QSize frame, const std::array<QPointF, 4>& corners) {
    place_ = place;
    frame_ = frame;
    corners_ = corners;
    setVisible(true);
    update();
}

QString PlaceOverlay::hint() const {
    return tr("Drag the picture; the wheel or a corner scales it. Ctrl+arrows move it by a pixel, + and − "
              "scale it. "
              "Esc leaves.");
}

QPointF PlaceOverlay::toStage(const QPointF& share) const {
    const QRectF frame = placeOfFrame_();
    return {frame.left() + share.x() * frame.width(), frame.top() + share.y() * frame.height()};
}

int PlaceOverlay::cornerAt(const QPointF& at) const {
    for (int i = 0; i < 4; ++i) {
        const QPointF off = toStage(corners_[static_cast<std::size_t>(i)]) - at;
        if (std::hypot(off.x(), off.y()) < nearCorner) return i;
    }
    return -1;
}

void PlaceOverlay::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    QPolygonF outline;
    for (const QPointF& corner : corners_)
        outline << toStage(corner);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(0, 0, 0, 150), 3));
    p.drawPolygon(outline);
    p.setPen(QPen(Qt::white, 1));
    p.drawPolygon(outline);
    for (const QPointF& corner : outline) {
        p.setPen(QPen(colour::ink, 1));
        p.setBrush(Qt::white);
        p.drawRect(QRectF(corner - QPointF(3.5, 3.5), QSizeF(7, 7)));
    }
}

void PlaceOverlay::mousePressEvent(QMouseEvent* press) {
    if (press->button() != Qt::LeftButton) return press->ignore();
    setFocus();
    isHeld_ = true;
    corner_ = cornerAt(press->position());
    grabbed_ = press->position();
    from_ = place_;
}

void PlaceOverlay::mouseMoveEvent(QMouseEvent* moved) {
    if (!isHeld_) {
        setCursor(cornerAt(moved->position()) >= 0 ? Qt::SizeFDiagCursor : Qt::SizeAllCursor);
        return;
    }
    const QRectF frame = placeOfFrame_();
    Place now = from_;
    if (corner_ >= 0) {
        const auto far = [&](const QPointF& at) {
            const QPointF off = at - frame.center();
            return std::max(1.0, std::hypot(off.x(), off.y()));
        };
        now.scale = from_.scale * far(moved->position()) / far(grabbed_);
    } else {
        const QPointF by = moved->position() - grabbed_;
        now.x = from_.x + by.x() / std::max(1.0, frame.width());
        now.y = from_.y + by.y() / std::max(1.0, frame.height());
        // A pixel of the result is the least that is meant.
        now.x = std::round(now.x * frame_.width()) / frame_.width();
        now.y = std::round(now.y * frame_.height()) / frame_.height();
    }
    Q_EMIT placed(now, true);
}

void PlaceOverlay::mouseReleaseEvent(QMouseEvent*) {
    isHeld_ = false;
}

void PlaceOverlay::scaleTo(double scale, bool isDragged) {
    Place now = place_;
    now.scale = scale;
    Q_EMIT placed(now, isDragged);
}

void PlaceOverlay::wheelEvent(QWheelEvent* wheel) {
    scaleTo(place_.scale * std::pow(1.02, wheel->angleDelta().y() / 120.0), true);
}

void PlaceOverlay::keyPressEvent(QKeyEvent* press) {
    const double step = press->modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1;
    Place now = place_;
    const bool isArrow = press->key() == Qt::Key_Left || press->key() == Qt::Key_Right ||
                         press->key() == Qt::Key_Up || press->key() == Qt::Key_Down;
    if (isArrow && !press->modifiers().testFlag(Qt::ControlModifier)) return QWidget::keyPressEvent(press);
    switch (press->key()) {
    case Qt::Key_Escape:
        Q_EMIT left();
        return;
    case Qt::Key_Left:
        now.x -= step / frame_.width();
        break;
    case Qt::Key_Right:
        now.x += step / frame_.width();
        break;
    case Qt::Key_Up:
        now.y -= step / frame_.height();
        break;
    case Qt::Key_Down:
        now.y += step / frame_.height();
        break;
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        return scaleTo(place_.scale * 1.005, true);
    case Qt::Key_Minus:
        return scaleTo(place_.scale / 1.005, true);
    default:
        return QWidget::keyPressEvent(press);
    }
    Q_EMIT placed(now, true);
}

} // namespace yarngap::app
