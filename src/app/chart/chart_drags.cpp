// The hand in the thread chart: what is dragged, typed, chosen and nudged.

#include "app/chart/lane_edits.h"
#include "app/chart/thread_chart.h"
#include "app/look/theme.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

using namespace chart;

std::optional<ThreadChart::Drag> ThreadChart::dragUnder(const QPointF& place) const {
    if (const auto handle = handleUnder(place)) return Drag{.grip = Grip::ease, .index = *handle};
    if (const auto key = keyUnder(place)) return Drag{.grip = Grip::key, .index = *key};
    if (const auto stretch = stretchUnder(place)) return Drag{.grip = Grip::stretch, .index = *stretch};
    if (std::abs(place.y() - at_.sourceY) <= 9) {
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
    const bool further = press->modifiers().testFlag(Qt::ShiftModifier);
    if (const auto key = further ? keyUnder(place) : std::nullopt) {
        choose(*key, true);
        redraw();
        if (!isChosen(*key)) return; // it was let go
        drag_ = Drag{.grip = Grip::key, .index = *key};
    } else if (further) {
        drag_ = Drag{.grip = Grip::select};
        const auto frame = std::clamp<std::int64_t>(std::llround(outputAt(place.x())), 0,
                                                    static_cast<std::int64_t>(plan_->rows.size()) - 1);
        selection_ = Stretch{frame, frame};
        Q_EMIT gapSelectionChanged();
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
    if (drag_->grip != Grip::key)
        chosen_.clear();
    else if (!further)
        choose(drag_->index, false);
    if (drag_->grip == Grip::ease) chosen_ = {drag_->index};
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
    switch (drag_->grip) {
    case Grip::select:
        return dragSelection(place);
    case Grip::trimFirst:
    case Grip::trimLast:
        return dragTrim(by.x());
    case Grip::ease:
        return dragEase(place, modifiers.testFlag(Qt::ControlModifier));
    case Grip::key:
        return dragKey(place, modifiers);
    case Grip::stretch:
        return dragStretch(place, modifiers);
    }
}

/// Along the source in whole frames; with Alt in hundredths.
Rational ThreadChart::sourceBy(double frames, Qt::KeyboardModifiers modifiers) {
    return modifiers.testFlag(Qt::AltModifier) ? Rational(std::llround(frames * 100), 100)
                                               : Rational(std::llround(frames));
}

/// From where the drag began to `x`, along the source as it was timed then.
double ThreadChart::sourceDragged(double x) const {
    const TimeMap map(drag_->before.asKeys());
    return map.positionAt(outputAt(x)) - map.positionAt(outputAt(drag_->from.x()));
}

void ThreadChart::dragSelection(const QPointF& place) {
    const auto last = static_cast<std::int64_t>(plan_->rows.size()) - 1;
    const auto frameAt = [&](double x) {
        return std::clamp<std::int64_t>(std::llround(outputAt(x)), 0, last);
    };
    const std::int64_t begin = frameAt(drag_->from.x());
    const std::int64_t end = frameAt(place.x());
    selection_ = Stretch{std::min(begin, end), std::max(begin, end)};
    Q_EMIT gapSelectionChanged();
    chosen_.clear(); // the keys inside are chosen along
    for (int k = 1; k + 1 < static_cast<int>(map_->keys().size()); ++k) {
        const Rational& output = map_->keys()[static_cast<std::size_t>(k)].output;
        if (output >= Rational(selection_->first) && output <= Rational(selection_->last + 1))
            chosen_.push_back(k);
    }
    dragWords_ =
        tr("frames %1 to %2, %3")
            .arg(selection_->first)
            .arg(selection_->last)
            .arg(seconds(Rational(selection_->last - selection_->first + 1) / timing_.outputRate.value()));
    redraw();
}

void ThreadChart::dragTrim(double pixels) {
    const Timing& before = drag_->before;
    const auto frames = std::llround(pixels / drag_->framePixels);
    const bool first = drag_->grip == Grip::trimFirst;
    try {
        const std::int64_t from =
            first ? std::clamp<std::int64_t>(before.from + frames, 0, before.to) : before.from;
        const std::int64_t to =
            first ? before.to
                  : std::clamp<std::int64_t>(before.to + frames, before.from, plan_->mediaFrames - 1);
        dragTo(withTrim(before, from, to), first ? tr("first frame") : tr("last frame"), -1);
    } catch (const Error&) { // too long a result: it stays where it is
    }
}

void ThreadChart::dragEase(const QPointF& place, bool oneSide) {
    const TimeKeys keys = drag_->before.asKeys();
    const auto k = static_cast<std::size_t>(drag_->index);
    // From where the jump was: the map on screen has the ease of the last step already.
    const double jumpX = xOf(keys[k].output.toDouble());
    const Rational length(std::max<std::int64_t>(1, std::llround(std::abs(place.x() - jumpX) / scale_)));
    const bool left = drag_->from.x() < jumpX;
    const Rational in =
        oneSide && !left ? Rational(0) : std::min(length, keys[k].output - keys[k - 1].output);
    const Rational out =
        oneSide && left ? Rational(0) : std::min(length, keys[k + 1].output - keys[k].output);
    Timing now = drag_->before;
    try {
        now.keys = withEase(keys, k, in, out);
        dragTo(now, tr("ease"), drag_->index);
        dragWords_ = tr("ease %1 + %2 f · ").arg(in.toDouble()).arg(out.toDouble()) + dragWords_;
    } catch (const Error&) { // no room there
    }
}

void ThreadChart::dragKey(const QPointF& place, Qt::KeyboardModifiers modifiers) {
    const Timing& before = drag_->before;
    const bool scaled = modifiers.testFlag(Qt::ControlModifier);
    if (showsPositions_ && chosen_.size() > 1)
        dragKeys(sourceBy(positionAtY(place.y()) - positionAtY(drag_->from.y()), modifiers), scaled);
    else if (showsPositions_)
        dragTo(withKeyPut(before, drag_->index, Rational(std::llround(outputAt(place.x()))),
                          sourceBy(positionAtY(place.y()), modifiers), keeping().keeping),
               tr("key"), drag_->index);
    else if (drag_->upright)
        dragTo(withKeyLifted(before, drag_->index, speedAtY(place.y()), keeping()), tr("speed at a key"),
               drag_->index);
    else
        dragKeys(sourceBy(sourceDragged(place.x()), modifiers), scaled);
}

void ThreadChart::dragStretch(const QPointF& place, Qt::KeyboardModifiers modifiers) {
    const Timing& before = drag_->before;
    const int i = drag_->index;
    if (drag_->upright)
        dragTo(withStretchDragged(before, i, speedAtY(place.y()), keeping()), tr("speed of a stretch"), i);
    else
        dragTo(withKeysSlid(before, keysOfStretch(before, i), sourceBy(sourceDragged(place.x()), modifiers),
                            Keeping::speeds),
               tr("moment of a stretch"), i);
}

void ThreadChart::dragKeys(const Rational& by, bool scaled) {
    const Timing& before = drag_->before;
    const int pulled = drag_->index;
    const Keeping kept = keeping().keeping;
    if (!isChosen(pulled)) chosen_ = {pulled}; // an edit from elsewhere, in the middle of a drag
    std::erase_if(chosen_, [&](int key) { return static_cast<std::size_t>(key) + 1 >= before.keys.size(); });
    if (chosen_.empty()) return;
    if (!scaled || chosen_.size() < 2) {
        dragTo(withKeysSlid(before, chosen_, by, kept),
               chosen_.size() > 1 ? tr("moments of keys") : tr("moment of a key"), pulled);
        return;
    }
    const auto at = [&](int key) { return before.keys[static_cast<std::size_t>(key)].position; };
    const int fixed = *std::max_element(chosen_.begin(), chosen_.end(), [&](int a, int b) {
        return std::abs((at(a) - at(pulled)).toDouble()) < std::abs((at(b) - at(pulled)).toDouble());
    });
    dragTo(withKeysScaled(before, chosen_, fixed, pulled, by, kept), tr("moments of keys"), pulled);
}

void ThreadChart::mouseReleaseEvent(QMouseEvent* release) {
    if (!drag_) return;
    const bool clicked = !drag_->decided;
    if (clicked && drag_->grip == Grip::key && !release->modifiers().testFlag(Qt::ShiftModifier))
        chosen_ = {drag_->index};
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
    } else if (std::abs(place.y() - at_.sourceY) <= 9) {
        // A key at that source frame; the rail is even.
        const auto nearest = std::llround((place.x() - sourceX(0)) / (sourceX(1) - sourceX(0)));
        ask(tr("add key"),
            [nearest](const TimeKeys& keys) { return withKeyAtMoment(keys, Rational(nearest)); });
    } else {
        mousePressEvent(press);
    }
}

void ThreadChart::choose(int key, bool further) {
    const bool was = std::erase(chosen_, key) > 0;
    if (further && was) return; // a second click with Shift lets it go
    if (!further && !was) chosen_.clear();
    chosen_.push_back(key);
}

void ThreadChart::takeChosenOut() {
    std::vector<int> which = std::exchange(chosen_, {});
    if (which.empty()) return;
    std::sort(which.rbegin(), which.rend());
    ask(which.size() > 1 ? tr("take keys out") : tr("take a key out"), [which](TimeKeys keys) {
        for (const int key : which)
            keys = withoutKey(keys, static_cast<std::size_t>(key));
        return keys;
    });
}

void ThreadChart::nudgeKey(int frames, int percents) {
    if (chosen_.empty()) return;
    const int i = chosen_.back();
    const Timing now = frames != 0 ? withKeysSlid(timing_, chosen_, frames, keeping().keeping) : [&] {
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
            chosen_.clear();
        }
        Q_EMIT gapSelectionChanged();
        redraw();
        return;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        takeChosenOut();
        return;
    case Qt::Key_PageDown:
    case Qt::Key_PageUp: {
        if (last < 1) return;
        const int by = press->key() == Qt::Key_PageDown ? 1 : -1;
        chosen_ = {std::clamp(chosen_.empty() ? (by > 0 ? 1 : last) : chosen_.back() + by, 1, last)};
        player_.goTo(map_->keys()[static_cast<std::size_t>(chosen_.back())].output.round());
        redraw();
        tellCurrentPart(*this);
        return;
    }
    case Qt::Key_Left:
    case Qt::Key_Right:
        if (!alt || chosen_.empty()) break;
        nudgeKey(press->key() == Qt::Key_Right ? 1 : -1, 0);
        return;
    case Qt::Key_Up:
    case Qt::Key_Down:
        if (!alt || chosen_.empty()) break;
        nudgeKey(0, press->key() == Qt::Key_Up ? 1 : -1);
        return;
    default:
        break;
    }
    QWidget::keyPressEvent(press);
}

std::optional<int> ThreadChart::handleUnder(const QPointF& place) const {
    if (!plan_ || chosen_.size() != 1 || !isJump(chosen_.front())) return std::nullopt;
    const QPointF away = place - placeOfKey(chosen_.front());
    const bool near = std::abs(std::abs(away.x()) - easeReach) <= 5 && std::abs(away.y()) <= 5;
    return near ? std::optional(chosen_.front()) : std::nullopt;
}

} // namespace yarngap::app
