#include "app/stage/film_strip.h"

#include "app/look/frame_shapes.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double caption = 24;      // height under a picture
constexpr double doubtful = 0.3;    // worth a second look
constexpr double sameChange = 0.02; // below it, two frames are the same picture; in 8-bit steps

} // namespace

FilmStrip::FilmStrip(Player& player, Preview& preview, QWidget* parent)
    : QWidget(parent)
    , player_(player)
    , preview_(preview) {
    setObjectName(QStringLiteral("filmStrip"));
    setAccessibleName(tr("Filmstrip: consecutive output frames"));
    setMinimumSize(240, 120);
    setFocusPolicy(Qt::StrongFocus);
    connect(&player_, &Player::moved, this, &FilmStrip::follow);
    for (const auto signal : {&Preview::pictureReady, &Preview::draftReady})
        connect(&preview_, signal, this, qOverload<>(&QWidget::update));
    connect(&preview_, &Preview::readyReset, this, qOverload<>(&QWidget::update));
}

void FilmStrip::setShot(std::shared_ptr<const FramePlan> plan, double aspect) {
    plan_ = std::move(plan);
    aspect_ = std::clamp(aspect, 0.2, 5.0);
    follow();
    if (isVisible()) preview_.setPage(page());
    update();
}

qint64 FilmStrip::total() const {
    return plan_ ? static_cast<qint64>(plan_->rows.size()) : 0;
}

PageGrid FilmStrip::grid() const {
    return {size(), aspect_, caption};
}

std::optional<std::pair<qint64, qint64>> FilmStrip::page() const {
    if (total() == 0) return std::nullopt;
    return std::pair(first_, std::min<qint64>(total() - 1, first_ + grid().count() - 1));
}

QRectF FilmStrip::placeOf(qint64 output) const {
    const auto shown = page();
    if (!shown || output < shown->first || output > shown->second) return {};
    return grid().placeOf(output - first_);
}

std::optional<qint64> FilmStrip::outputAt(QPointF at) const {
    const auto shown = page();
    if (!shown) return std::nullopt;
    for (qint64 i = shown->first; i <= shown->second; ++i)
        if (placeOf(i).adjusted(0, 0, PageGrid::between, caption).contains(at)) return i;
    return std::nullopt;
}

void FilmStrip::turnTo(qint64 first) {
    const qint64 count = grid().count();
    // The last page is a full one, where there are frames enough.
    first_ = std::clamp<qint64>(first, 0, std::max<qint64>(0, total() - count));
    if (isVisible()) preview_.setPage(page());
    update();
}

void FilmStrip::follow() {
    const auto shown = page();
    const qint64 at = player_.playhead();
    if (shown && (at < shown->first || at > shown->second || shown->second - shown->first < 1)) centre();
    update();
}

void FilmStrip::centre() {
    const PageGrid g = grid();
    const qint64 at = player_.playhead();
    // The row with the playhead in the middle, beginning where rows begin when leafing.
    turnTo(at - at % g.columns - qint64{g.columns} * (g.rows / 2));
}

QString FilmStrip::captionOf(qint64 output) const {
    if (output < 0 || output >= total()) return {};
    const PreviewPicturePtr made = preview_.picture(output);
    QString number = QString::number(output);
    const bool finished = made && !made->draft && made->trouble.isEmpty();
    const PreviewPicturePtr before = output > 0 ? preview_.picture(output - 1) : nullptr;
    if (finished && before && !before->draft && !before->image.isNull() &&
        changeBetween(before->look, made->look) < sameChange)
        return tr("%1 · same as %2").arg(number).arg(output - 1);
    const PlanRow& row = plan_->rows[static_cast<std::size_t>(output)];
    if (row.kind == FrameKind::original) return tr("%1 · source %2").arg(number).arg(row.first);
    if (finished && made->doubt) return tr("%1 · doubt %2").arg(number, shownNumber(*made->doubt, 2));
    return number;
}

void FilmStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), colour::stage);
    const auto shown = page();
    if (!shown) return;
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    for (qint64 i = shown->first; i <= shown->second; ++i) {
        const QRectF place = placeOf(i);
        const PlanRow& row = plan_->rows[static_cast<std::size_t>(i)];
        const PreviewPicturePtr made = preview_.picture(i);
        if (made && !made->small.isNull())
            p.drawImage(place, made->small);
        else if (made && !made->image.isNull())
            p.drawImage(place, made->image); // a draft has no small picture
        else
            p.fillRect(place, QColor(0x5E, 0x5E, 0x5E));
        const bool here = i == player_.playhead();
        const bool original = row.kind == FrameKind::original;
        p.setRenderHint(QPainter::Antialiasing, false);
        p.setBrush(Qt::NoBrush);
        p.setPen(original ? QPen(Qt::white, 2) : QPen(QColor(0xD8, 0xD6, 0xD1), 1, Qt::DashLine));
        p.drawRect(place);
        if (here) {
            p.setPen(QPen(colour::indigo, 4));
            p.drawRect(place.adjusted(-3, -3, 3, 3));
        }
        p.setRenderHint(QPainter::Antialiasing);
        const double y = place.bottom() + caption / 2 - 1;
        // On the light ground that the shapes are drawn for.
        p.setPen(Qt::NoPen);
        p.setBrush(colour::cloth);
        p.drawEllipse(QPointF(place.left() + 8, y), 7, 7);
        drawFrameShape(p, row.kind, QPointF(place.left() + 8, y), 4.5);
        if (row.mend) {
            const QPointF corner = place.topRight() + QPointF(-11, 11);
            p.setPen(Qt::NoPen);
            p.setBrush(colour::cloth);
            p.drawEllipse(corner, 7, 7);
            drawMendedMark(p, corner, 3);
        }
        const bool doubted = made && made->doubt && *made->doubt >= doubtful;
        p.setFont(textFont(12, here || doubted ? QFont::DemiBold : QFont::Normal));
        const QRectF words(place.left() + 20, place.bottom() + 3, place.width() - 20, caption - 6);
        const QString text = made ? captionOf(i) : tr("%1 · being made").arg(i);
        if (doubted) {
            const double wide = p.fontMetrics().horizontalAdvance(text) + 8;
            p.setPen(Qt::NoPen);
            p.setBrush(colour::madder);
            p.drawRoundedRect(
                QRectF(words.left() - 4, words.top(), std::min(wide, words.width() + 4), words.height()), 3,
                3);
        }
        p.setPen(Qt::white);
        p.drawText(words, Qt::AlignVCenter | Qt::AlignLeft, text);
    }
}

void FilmStrip::resizeEvent(QResizeEvent* resize) {
    QWidget::resizeEvent(resize);
    centre();
}

void FilmStrip::showEvent(QShowEvent* shown) {
    QWidget::showEvent(shown);
    centre();
}

void FilmStrip::hideEvent(QHideEvent* hidden) {
    QWidget::hideEvent(hidden);
    preview_.setPage(std::nullopt);
}

void FilmStrip::mousePressEvent(QMouseEvent* press) {
    if (const auto output = outputAt(press->position())) player_.goTo(*output);
}

void FilmStrip::mouseDoubleClickEvent(QMouseEvent* press) {
    if (outputAt(press->position())) Q_EMIT left();
}

void FilmStrip::wheelEvent(QWheelEvent* wheel) {
    const int turns = wheel->angleDelta().y();
    if (turns == 0) return;
    const PageGrid g = grid();
    turnTo(first_ + (turns < 0 ? g.columns : -g.columns));
}

void FilmStrip::keyPressEvent(QKeyEvent* press) {
    const PageGrid g = grid();
    const qint64 count = g.count();
    switch (press->key()) {
    case Qt::Key_Escape:
    case Qt::Key_Return:
    case Qt::Key_Enter:
        Q_EMIT left();
        return;
    case Qt::Key_Up:
        player_.goTo(player_.playhead() - g.columns);
        return;
    case Qt::Key_Down:
        player_.goTo(player_.playhead() + g.columns);
        return;
    case Qt::Key_PageUp:
        player_.goTo(player_.playhead() - count);
        return;
    case Qt::Key_PageDown:
        player_.goTo(player_.playhead() + count);
        return;
    default:
        QWidget::keyPressEvent(press);
    }
}

} // namespace yarngap::app
