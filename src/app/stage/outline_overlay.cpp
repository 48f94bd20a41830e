#include "app/stage/outline_overlay.h"

#include "app/look/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double near = 9; // screen pixels within which a point or a line is meant

double distance(const QPointF& a, const QPointF& b) {
    return std::hypot(a.x() - b.x(), a.y() - b.y());
}

} // namespace

OutlineOverlay::OutlineOverlay(std::function<QRectF()> placeOfPicture, int width, int height,
                               const OutlineWords& words, QWidget* stage)
    : QWidget(stage)
    , placeOfPicture_(std::move(placeOfPicture))
    , width_(width)
    , height_(height)
    , words_(words) {
    setObjectName(QString::fromLatin1(words.objectName));
    setAccessibleName(words.name);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::CrossCursor);
    setGeometry(stage->rect());
    stage->installEventFilter(this);
}

bool OutlineOverlay::eventFilter(QObject* watched, QEvent* happened) {
    if (happened->type() == QEvent::Resize) setGeometry(parentWidget()->rect());
    return QWidget::eventFilter(watched, happened);
}

void OutlineOverlay::startPlacing() {
    if (!isPlacing_) placed_.clear();
    isPlacing_ = true;
    shown_.clear();
    held_.reset();
    selected_.reset();
    setVisible(true);
    refresh();
}

void OutlineOverlay::show(const std::vector<PicturePoint>& outline, bool isKey, const QString& where) {
    const bool other = isPlacing_ || outline != shown_ || isKey != isKey_;
    if (isPlacing_) selected_.reset();
    isPlacing_ = false;
    placed_.clear();
    shown_ = outline;
    isKey_ = isKey;
    where_ = where;
    if (other) held_.reset();
    if (selected_ && *selected_ >= shown_.size() && !shown_.empty()) selected_.reset();
    setVisible(true);
    refresh();
}

void OutlineOverlay::refresh() {
    setAccessibleDescription(hint());
    update();
    Q_EMIT hintChanged();
}

std::vector<PicturePoint> OutlineOverlay::outline() const {
    if (held_) return *held_;
    return isPlacing_ ? placed_ : shown_;
}

QString OutlineOverlay::hint() const {
    if (isPlacing_) {
        if (placed_.size() < 3) return words_.place;
        return tr(
            "Go on clicking, or press Enter to close the outline. Backspace takes a point back, Esc leaves.");
    }
    if (shown_.empty()) return where_;
    return where_ + QLatin1Char(' ') +
           tr("Drag points or the whole; double click a line for a point more, Delete for one less. Esc "
              "leaves.");
}

QPointF OutlineOverlay::toStage(const PicturePoint& p) const {
    const QRectF place = placeOfPicture_();
    return {place.left() + p.x / width_ * place.width(), place.top() + p.y / height_ * place.height()};
}

PicturePoint OutlineOverlay::toPicture(const QPointF& p) const {
    const QRectF place = placeOfPicture_();
    return {(p.x() - place.left()) / std::max(1.0, place.width()) * width_,
            (p.y() - place.top()) / std::max(1.0, place.height()) * height_};
}

PicturePoint OutlineOverlay::placeFor(const QPointF& click) const {
    const QRectF place = placeOfPicture_();
    PicturePoint p = toPicture(click);
    // A subject at the picture's edge goes on beyond it, where nobody can click.
    constexpr double beyond = 8;
    if (click.x() < place.left() + near) p.x = std::min(p.x, -beyond);
    if (click.y() < place.top() + near) p.y = std::min(p.y, -beyond);
    if (click.x() > place.right() - near) p.x = std::max(p.x, width_ + beyond);
    if (click.y() > place.bottom() - near) p.y = std::max(p.y, height_ + beyond);
    return p;
}

std::optional<std::size_t> OutlineOverlay::pointAt(const QPointF& place) const {
    const auto points = outline();
    std::optional<std::size_t> best;
    double least = near;
    for (std::size_t i = 0; i < points.size(); ++i)
        if (const double d = distance(toStage(points[i]), place); d <= least) {
            least = d;
            best = i;
        }
    return best;
}

std::optional<std::size_t> OutlineOverlay::lineAt(const QPointF& place) const {
    const auto points = outline();
    for (std::size_t i = 0; i < points.size(); ++i) {
        const QPointF a = toStage(points[i]);
        const QPointF along = toStage(points[(i + 1) % points.size()]) - a;
        const double length = QPointF::dotProduct(along, along);
        const double s =
            length > 0 ? std::clamp(QPointF::dotProduct(place - a, along) / length, 0.0, 1.0) : 0.0;
        if (distance(a + s * along, place) <= near) return i;
    }
    return std::nullopt;
}

bool OutlineOverlay::inside(const QPointF& place) const {
    QPolygonF shape;
    for (const PicturePoint& p : outline())
        shape << toStage(p);
    return shape.containsPoint(place, Qt::OddEvenFill);
}

void OutlineOverlay::close() {
    if (placed_.size() < 3) return;
    std::vector<PicturePoint> points = std::move(placed_);
    placed_.clear();
    change(points, Change::drawn);
}

void OutlineOverlay::change(const std::vector<PicturePoint>& points, Change what) {
    std::vector<PicturePoint> kept = points; // at most a picture's size outside, however far they are dragged
    for (PicturePoint& p : kept)
        p = {std::clamp<double>(p.x, -width_, 2.0 * width_),
             std::clamp<double>(p.y, -height_, 2.0 * height_)};
    Q_EMIT outlined(kept, what);
}

void OutlineOverlay::addPoint(std::size_t after) {
    selected_ = after + 1;
    Q_EMIT pointAdded(after);
}

void OutlineOverlay::removePoint() {
    if (!selected_ || isPlacing_) return;
    const std::size_t point = *selected_;
    selected_ = point > 0 ? point - 1 : 0;
    Q_EMIT pointRemoved(point);
}

void OutlineOverlay::mousePressEvent(QMouseEvent* press) {
    if (press->button() != Qt::LeftButton) return press->ignore();
    setFocus();
    const QPointF at = press->position();
    const auto point = pointAt(at);
    if (isPlacing_) {
        if (point == std::size_t{0} && placed_.size() >= 3) return close();
        placed_.push_back(placeFor(at));
        return refresh();
    }
    grabbed_ = toPicture(at);
    selected_ = point;
    if (!point && (lineAt(at) || !inside(at))) return press->ignore(); // the stage moves its picture
    if (shown_.empty()) return press->ignore();
    held_ = shown_;
    update();
}

void OutlineOverlay::mouseMoveEvent(QMouseEvent* move) {
    if (!held_) return move->ignore();
    const PicturePoint now = toPicture(move->position());
    for (std::size_t i = 0; i < held_->size(); ++i) {
        if (selected_ && *selected_ != i) continue;
        (*held_)[i].x += now.x - grabbed_.x;
        (*held_)[i].y += now.y - grabbed_.y;
    }
    grabbed_ = now;
    update();
}

void OutlineOverlay::mouseReleaseEvent(QMouseEvent* release) {
    if (!held_) return release->ignore();
    const std::vector<PicturePoint> points = *held_;
    held_.reset();
    if (points != shown_) change(points, selected_ ? Change::pointMoved : Change::moved);
    update();
}

void OutlineOverlay::mouseDoubleClickEvent(QMouseEvent* click) {
    const QPointF at = click->position();
    if (isPlacing_) return close(); // its first click has placed a point
    held_.reset();
    if (pointAt(at)) return;
    if (const auto line = lineAt(at)) addPoint(*line);
}

bool OutlineOverlay::moveByKey(int key, bool far) {
    const double step = far ? 10 : 1;
    const double dx = key == Qt::Key_Left ? -step : key == Qt::Key_Right ? step : 0;
    const double dy = key == Qt::Key_Up ? -step : key == Qt::Key_Down ? step : 0;
    if ((dx == 0 && dy == 0) || isPlacing_ || shown_.empty()) return false;
    std::vector<PicturePoint> points = shown_;
    for (std::size_t i = 0; i < points.size(); ++i) {
        if (selected_ && *selected_ != i) continue;
        points[i].x += dx;
        points[i].y += dy;
    }
    change(points, selected_ ? Change::pointMoved : Change::moved);
    return true;
}

void OutlineOverlay::keyPressEvent(QKeyEvent* key) {
    const std::size_t count = outline().size();
    if (key->modifiers().testFlag(Qt::ControlModifier) &&
        moveByKey(key->key(), key->modifiers().testFlag(Qt::ShiftModifier)))
        return;
    switch (key->key()) {
    case Qt::Key_Escape:
        Q_EMIT left();
        return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (isPlacing_) return close();
        Q_EMIT left();
        return;
    case Qt::Key_Backspace:
        if (isPlacing_ && !placed_.empty()) placed_.pop_back();
        refresh();
        break;
    case Qt::Key_Delete:
        removePoint();
        break;
    case Qt::Key_Insert:
        if (isPlacing_) {
            const double w = width_;
            const double h = height_;
            placed_ = {{w / 4, h / 4}, {w * 3 / 4, h / 4}, {w * 3 / 4, h * 3 / 4}, {w / 4, h * 3 / 4}};
            return close();
        }
        if (count > 0) addPoint(selected_.value_or(0));
        break;
    case Qt::Key_PageDown:
        if (count > 0) selected_ = selected_ ? (*selected_ + 1) % count : 0;
        break;
    case Qt::Key_PageUp:
        if (count > 0) selected_ = selected_ ? (*selected_ + count - 1) % count : count - 1;
        break;
    default:
        QWidget::keyPressEvent(key);
        return;
    }
    update();
}

void OutlineOverlay::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const auto points = outline();
    QPainterPath shape;
    for (std::size_t i = 0; i < points.size(); ++i)
        i == 0 ? shape.moveTo(toStage(points[i])) : shape.lineTo(toStage(points[i]));
    if (!isPlacing_ && !points.empty()) shape.closeSubpath();
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(255, 255, 255, 200), 3.5));
    p.drawPath(shape);
    // Dashed where no key holds it.
    p.setPen(QPen(colour::indigo, 1.5, isPlacing_ || isKey_ ? Qt::SolidLine : Qt::DashLine));
    p.drawPath(shape);
    for (std::size_t i = 0; i < points.size(); ++i) {
        const double half = selected_ == i ? 4.5 : 3.5;
        p.setPen(QPen(colour::indigo, 1.5));
        p.setBrush(selected_ == i ? colour::indigo : colour::paper);
        p.drawRect(QRectF(toStage(points[i]) - QPointF(half, half), QSizeF(2 * half, 2 * half)));
    }
}

} // namespace yarngap::app
