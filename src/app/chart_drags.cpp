// The hand in the thread chart: what is dragged, typed, chosen and nudged.

#include "app/lane_edits.h"
#include "app/step_layout.h"
#include "app/theme.h"
#include "app/thread_chart.h"
#include "app/thread_chart_places.h"
#include "core/error.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

using namespace chart;

std::optional<ThreadChart::Drag> ThreadChart::dragUnder(const QPointF& place) const {
    if (const auto handle = handleUnder(place)) return Drag{.grip = Grip::ease, .index = *handle};
    if (const auto key = keyUnder(place)) return Drag{.grip = Grip::key, .index = *key};
    if (const auto stretch = stretchUnder(place)) return Drag{.grip = Grip::stretch, .index = *stretch};
    if (std::abs(place.y() - sourceY) <= 9) {
        if (std::abs(place.x() - sourceX(static_cast<double>(timing_.from))) <= 5)
            return Drag{.grip = Grip::trimFirst};
        if (std::abs(place.x() - sourceX(static_cast<double>(timing_.to))) <= 5)
            return Drag{.grip = Grip::trimLast};
    }
    return std::nullopt;
}

void ThreadChart::mousePressEvent(QMouseEvent* press) {
    if (!plan_) return;
    if (press->button() == Qt::MiddleButton) panX_ = press->position().x();
    if (press->button() != Qt::LeftButton) return;
    setFocus(); // for Escape
    const QPointF place = press->position();
    if (press->modifiers().testFlag(Qt::ShiftModifier)) {
        drag_ = Drag{.grip = Grip::select};
        const auto frame = std::clamp<std::int64_t>(std::llround(outputAt(place.x())), 0,
                                                    static_cast<std::int64_t>(plan_->rows.size()) - 1);
        selection_ = Stretch{frame, frame};
    } else {
        drag_ = dragUnder(place);
    }
    if (!drag_) {
        scrub(place.x());
        return;
    }
    drag_->before = timing_;
    drag_->from = place;
    drag_->number = ++drags_;
    drag_->framePixels = std::max(1e-6, std::abs(sourceX(1) - sourceX(0)));
    selected_.reset();
    if (drag_->grip == Grip::key || drag_->grip == Grip::ease) selected_ = drag_->index;
    redraw();
}

void ThreadChart::mouseMoveEvent(QMouseEvent* move) {
    if (!plan_) return;
    const QPointF place = move->position();
    if (drag_) {
        drag(place, move->modifiers());
        return;
    }
    if (move->buttons() == Qt::NoButton) {
        const auto grip = dragUnder(place);
        setCursor(!grip                         ? Qt::ArrowCursor
                  : grip->grip == Grip::stretch ? Qt::SizeAllCursor
                  : grip->grip == Grip::key     ? Qt::PointingHandCursor
                                                : Qt::SizeHorCursor);
        const auto under = grip && grip->grip == Grip::stretch ? std::optional(grip->index) : std::nullopt;
        if (under != hovered_) {
            hovered_ = under;
            redraw();
        }
    }
    if (move->buttons().testFlag(Qt::LeftButton)) scrub(place.x());
    if (move->buttons().testFlag(Qt::MiddleButton)) {
        scrollTo(start_ - (place.x() - panX_) / scale_);
        fitted_ = false;
        panX_ = place.x();
    }
}

void ThreadChart::dragTo(const Timing& changed, const QString& what, int segment) {
    dragWords_ = dragWords(drag_->before, changed, segment);
    drag_->what = what;
    Q_EMIT timingDragged(changed, what, drag_->number);
    update();
}

void ThreadChart::drag(const QPointF& place, Qt::KeyboardModifiers modifiers) {
    dragPlace_ = place;
    const QPointF by = place - drag_->from;
    if (!drag_->decided) {
        if (std::max(std::abs(by.x()), std::abs(by.y())) < 3) return;
        drag_->decided = true;
        drag_->upright = std::abs(by.y()) > std::abs(by.x());
    }
    const Timing& before = drag_->before;
    const int i = drag_->index;
    // Along the source in whole frames; with Alt in hundredths.
    const auto sourceBy = [&](double frames) {
        return modifiers.testFlag(Qt::AltModifier) ? Rational(std::llround(frames * 100), 100)
                                                   : Rational(std::llround(frames));
    };
    const auto moment = [&](double x) { return TimeMap(before.asKeys()).positionAt(outputAt(x)); };
    switch (drag_->grip) {
    case Grip::select: {
        const auto last = static_cast<std::int64_t>(plan_->rows.size()) - 1;
        const auto frameAt = [&](double x) {
            return std::clamp<std::int64_t>(std::llround(outputAt(x)), 0, last);
        };
        const std::int64_t begin = frameAt(drag_->from.x());
        const std::int64_t end = frameAt(place.x());
        selection_ = Stretch{std::min(begin, end), std::max(begin, end)};
        dragWords_ = tr("frames %1 to %2, %3")
                         .arg(selection_->first)
                         .arg(selection_->last)
                         .arg(seconds(Rational(selection_->last - selection_->first + 1) /
                                      timing_.outputRate.value()));
        redraw();
        return;
    }
    case Grip::trimFirst:
    case Grip::trimLast: {
        const auto frames = std::llround(by.x() / drag_->framePixels);
        const bool first = drag_->grip == Grip::trimFirst;
        try {
            const std::int64_t from =
                first ? std::clamp<std::int64_t>(before.from + frames, 0, before.to) : before.from;
            const std::int64_t to =
                first ? before.to
                      : std::clamp<std::int64_t>(before.to + frames, before.from, plan_->mediaFrames - 1);
            dragTo(withTrim(before, from, to), first ? tr("first frame") : tr("last frame"), -1);
            dragWords_ = tr("source %1 to %2 · ").arg(from).arg(to) + dragWords_;
        } catch (const Error&) { // too long a result: it stays where it is
        }
        return;
    }
    case Grip::ease: {
        const TimeKeys keys = before.asKeys();
        const auto k = static_cast<std::size_t>(i);
        // From where the jump was: the map on screen has the ease of the last step already.
        const double jumpX = xOf(keys[k].output.toDouble());
        const Rational length(std::max<std::int64_t>(1, std::llround(std::abs(place.x() - jumpX) / scale_)));
        const bool left = drag_->from.x() < jumpX;
        const Rational in = std::min(length, keys[k].output - keys[k - 1].output);
        const Rational out = std::min(length, keys[k + 1].output - keys[k].output);
        const bool one = modifiers.testFlag(Qt::ControlModifier); // on this side only
        Timing now = before;
        try {
            now.keys = withEase(keys, k, one && !left ? Rational(0) : in, one && left ? Rational(0) : out);
            dragTo(now, tr("ease"), i);
            dragWords_ = tr("ease %1 + %2 f · ")
                             .arg((one && !left ? Rational(0) : in).toDouble())
                             .arg((one && left ? Rational(0) : out).toDouble()) +
                         dragWords_;
        } catch (const Error&) { // no room there
        }
        return;
    }
    case Grip::key:
        if (showsPositions_)
            dragTo(withKeyPut(before, i, Rational(std::llround(outputAt(place.x()))),
                              sourceBy(positionAtY(place.y())), keeping()),
                   tr("key"), i);
        else if (drag_->upright)
            dragTo(withKeyLifted(before, i, speedAtY(place.y()), keeping()), tr("speed at a key"), i);
        else
            dragTo(
                withKeysSlid(before, i, i, sourceBy(moment(place.x()) - moment(drag_->from.x())), keeping()),
                tr("moment of a key"), i);
        return;
    case Grip::stretch:
        if (drag_->upright) {
            dragTo(withStretchDragged(before, i, speedAtY(place.y()), keeping()), tr("speed of a stretch"),
                   i);
        } else {
            const auto [first, last] = keysOfStretch(before, i);
            dragTo(withKeysSlid(before, first, last, sourceBy(moment(place.x()) - moment(drag_->from.x())),
                                Keeping::speeds),
                   tr("moment of a stretch"), i);
        }
        return;
    }
}

void ThreadChart::mouseReleaseEvent(QMouseEvent*) {
    if (!drag_) return;
    const bool clicked = !drag_->decided;
    const QPointF place = drag_->from;
    const Grip grip = drag_->grip;
    drag_.reset();
    dragWords_.clear();
    fitSpeeds();
    if (fitted_) fit();
    redraw();
    // A click on something that can be dragged moves the playhead there like any other.
    if (clicked && grip == Grip::stretch) scrub(place.x());
}

void ThreadChart::mouseDoubleClickEvent(QMouseEvent* press) {
    if (!plan_ || press->button() != Qt::LeftButton) return;
    const QPointF place = press->position();
    if (keyUnder(place) || stretchUnder(place)) {
        typeSpeed(place);
    } else if (std::abs(place.y() - sourceY) <= 9) {
        // A key at that source frame; the rail is even.
        const auto nearest = std::llround((place.x() - sourceX(0)) / (sourceX(1) - sourceX(0)));
        ask(tr("add key"),
            [nearest](const TimeKeys& keys) { return withKeyAtMoment(keys, Rational(nearest)); });
    } else {
        mousePressEvent(press);
    }
}

void ThreadChart::typeSpeed(const QPointF& place) {
    const auto key = keyUnder(place);
    const auto stretch = key ? std::nullopt : stretchUnder(place);
    const bool chosen = selection_ && !key && place.y() > speedBottom + grasp;
    if (!key && !stretch && !chosen) return;
    const double output = chosen ? static_cast<double>(selection_->first)
                          : key  ? map_->keys()[static_cast<std::size_t>(*key)].output.toDouble() + 1e-7
                                 : outputAt(place.x());
    const double now = timing_.speedOf(1).toDouble() * map_->speedAt(output);
    speedEditor_->setText(text(displayPercent(Rational(std::llround(now * 10000), 10000))));
    speedEditor_->setGeometry(std::clamp(static_cast<int>(place.x()) - 36, 0, width() - 80),
                              std::clamp(static_cast<int>(place.y()) - 12, 28, height() - 30), 72, 26);
    speedEditor_->show();
    speedEditor_->selectAll();
    speedEditor_->setFocus();
    const Timing before = timing_;
    const Keeping kept = keeping();
    typed_ = [this, before, kept, key, stretch, range = selection_](const QString& typed) {
        try {
            const Rational speed = parseSpeed(bare(typed, {}));
            Timing changed = before;
            if (key || stretch) {
                const TimeKeys keys = before.asKeys();
                auto i = static_cast<std::size_t>(key ? *key : *stretch);
                if (key && keys[i].after != Segment::constant && keys[i - 1].after == Segment::constant) --i;
                if (!before.varies())
                    changed = withSpeed(before, speed);
                else if (keys[i].after == Segment::eased)
                    changed.keys = withKeySpeed(keys, i, before.stepAt(speed));
                else
                    changed.keys = kept == Keeping::speeds
                                       ? withStretchSpeed(keys, i, before.stepAt(speed))
                                       : withSegmentSpeed(keys, i, before.stepAt(speed), kept);
            } else {
                changed.keys = withSpeedBetween(before.asKeys(), range->first, range->last + 1,
                                                before.stepAt(speed), kept);
            }
            validate(changed);
            Q_EMIT timingAsked(changed, tr("speed of a stretch"));
        } catch (const Error& error) {
            Q_EMIT refused(QString::fromStdString(error.what()));
        }
    };
}

void ThreadChart::ask(const QString& what, const std::function<TimeKeys(const TimeKeys&)>& change) {
    try {
        Timing changed = timing_;
        changed.keys = change(timing_.asKeys());
        validate(changed);
        Q_EMIT timingAsked(changed, what);
    } catch (const Error& error) {
        Q_EMIT refused(QString::fromStdString(error.what()));
    }
}

void ThreadChart::contextMenuEvent(QContextMenuEvent* asked) {
    if (!plan_ || drag_) return;
    const QPointF place = asked->pos();
    const auto key = keyUnder(place);
    const auto frame = std::clamp<std::int64_t>(std::llround(outputAt(place.x())), 0,
                                                static_cast<std::int64_t>(plan_->rows.size()) - 1);
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto add = [&](const QString& words, const QString& what, auto change) {
        connect(menu->addAction(words), &QAction::triggered, this,
                [this, what, change] { ask(what, change); });
    };
    if (key) {
        selected_ = key;
        redraw();
        const auto i = static_cast<std::size_t>(*key);
        connect(menu->addAction(tr("Speed…")), &QAction::triggered, this,
                [this, place] { typeSpeed(place); });
        if (isJump(*key))
            add(tr("Ease the jump"), tr("ease"), [i, this](const TimeKeys& keys) {
                const Rational half(std::max<std::int64_t>(1, timing_.outputRate.value().round() / 2));
                return withEase(keys, i, std::min(half, keys[i].output - keys[i - 1].output),
                                std::min(half, keys[i + 1].output - keys[i].output));
            });
        add(tr("Land on a real frame"), tr("land a key"),
            [i](const TimeKeys& keys) { return withKeyLanded(keys, i); });
        add(tr("Take the key out"), tr("take a key out"),
            [i](const TimeKeys& keys) { return withoutKey(keys, i); });
    } else {
        add(tr("Key at frame %1").arg(frame), tr("add key"),
            [frame](const TimeKeys& keys) { return withKeyAt(keys, frame); });
    }
    if (selection_) {
        const Stretch range = *selection_;
        menu->addSection(tr("Frames %1 to %2").arg(range.first).arg(range.last));
        connect(menu->addAction(tr("Speed of these frames…")), &QAction::triggered, this, [this] {
            typeSpeed({xOf(static_cast<double>(selection_->first + selection_->last) / 2), sourceY + 20});
        });
        add(tr("Run back over them and again"), tr("run back and again"),
            [range](const TimeKeys& keys) { return withRewind(keys, range.first, range.last + 1); });
        connect(menu->addAction(tr("Copy their timing")), &QAction::triggered, this, [this, range] {
            try {
                copied_ = excerpt(timing_.asKeys(), range.first, range.last + 1);
            } catch (const Error& error) {
                Q_EMIT refused(QString::fromStdString(error.what()));
            }
        });
    }
    if (!copied_.empty()) {
        const std::int64_t moment = std::llround(map_->positionAt(static_cast<double>(frame)));
        add(tr("Paste the timing at source frame %1").arg(moment), tr("paste timing"),
            [moment, copied = copied_](const TimeKeys& keys) { return withExcerpt(keys, copied, moment); });
    }
    menu->popup(asked->globalPos());
}

void ThreadChart::nudgeKey(int frames, int percents) {
    if (!selected_) return;
    const int i = *selected_;
    const Timing now = frames != 0 ? withKeysSlid(timing_, i, i, frames, keeping()) : [&] {
        const double speed =
            std::abs(timing_.speedOf(1).toDouble() *
                     map_->speedAt(map_->keys()[static_cast<std::size_t>(i)].output.toDouble() + 1e-7));
        return withKeyLifted(timing_, i, speed + percents / 100.0, keeping());
    }();
    if (now == timing_)
        Q_EMIT refused(tr("The key has no room to move there."));
    else
        Q_EMIT timingAsked(now, frames != 0 ? tr("moment of a key") : tr("speed at a key"));
}

void ThreadChart::keyPressEvent(QKeyEvent* press) {
    const bool alt = press->modifiers() == Qt::AltModifier;
    const int last = map_ ? static_cast<int>(map_->keys().size()) - 2 : 0;
    switch (press->key()) {
    case Qt::Key_Escape:
        if (drag_) {
            const Drag drag = *drag_;
            drag_.reset();
            dragWords_.clear();
            if (drag.grip == Grip::select)
                selection_.reset();
            else if (drag.decided)
                Q_EMIT dragTakenBack(drag.before, drag.what, drag.number);
            fitSpeeds();
        } else {
            selection_.reset();
            selected_.reset();
        }
        redraw();
        return;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        if (const auto key = std::exchange(selected_, std::nullopt))
            ask(tr("take a key out"),
                [key](const TimeKeys& keys) { return withoutKey(keys, static_cast<std::size_t>(*key)); });
        return;
    case Qt::Key_PageDown:
    case Qt::Key_PageUp: {
        if (last < 1) return;
        const int by = press->key() == Qt::Key_PageDown ? 1 : -1;
        selected_ = std::clamp(selected_ ? *selected_ + by : by > 0 ? 1 : last, 1, last);
        player_.goTo(map_->keys()[static_cast<std::size_t>(*selected_)].output.round());
        redraw();
        return;
    }
    case Qt::Key_Left:
    case Qt::Key_Right:
        if (!alt || !selected_) break;
        nudgeKey(press->key() == Qt::Key_Right ? 1 : -1, 0);
        return;
    case Qt::Key_Up:
    case Qt::Key_Down:
        if (!alt || !selected_) break;
        nudgeKey(0, press->key() == Qt::Key_Up ? 1 : -1);
        return;
    default:
        break;
    }
    QWidget::keyPressEvent(press);
}

void ThreadChart::drawSelection(QPainter& p) const {
    if (!selection_) return;
    QColor tint = colour::indigo;
    tint.setAlphaF(0.10F);
    const double left = xOf(static_cast<double>(selection_->first) - 0.5);
    const double right = xOf(static_cast<double>(selection_->last) + 0.5);
    p.fillRect(QRectF(left, speedTop - 6, right - left, readyY + 8 - speedTop), tint);
    p.setPen(QPen(colour::indigo, 1));
    for (const double x : {left, right})
        p.drawLine(QPointF(x, speedTop - 6), QPointF(x, readyY + 2));
}

void ThreadChart::drawDragWords(QPainter& p) const {
    if (dragWords_.isEmpty()) return;
    p.setFont(textFont(12, QFont::DemiBold));
    const double w = p.fontMetrics().horizontalAdvance(dragWords_) + 16;
    const double x = std::clamp(dragPlace_.x() - w / 2, gutter, std::max(gutter, width() - rightMargin - w));
    const double y = dragPlace_.y() > 76 ? dragPlace_.y() - 38 : dragPlace_.y() + 18;
    p.setPen(QPen(colour::indigo, 1));
    p.setBrush(colour::paper);
    p.drawRoundedRect(QRectF(x, y, w, 24), 4, 4);
    p.setPen(colour::ink);
    p.drawText(QRectF(x, y, w, 24), Qt::AlignCenter, dragWords_);
}

} // namespace yarngap::app
