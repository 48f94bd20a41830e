// What is typed in the thread chart, and its menu.

#include "app/chart/lane_edits.h"
#include "app/chart/thread_chart.h"
#include "app/look/numbers.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QContextMenuEvent>
#include <QMenu>

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <utility>

namespace yarngap::app {

using namespace chart;

void ThreadChart::typeSpeed(const QPointF& place) {
    const auto key = keyUnder(place);
    const auto stretch = key ? std::nullopt : stretchUnder(place);
    const bool chosen = selection_ && !key && place.y() > at_.speedBottom + grasp;
    if (!key && !stretch && !chosen) return;
    const double output = chosen ? static_cast<double>(selection_->first)
                          : key  ? map_->keys()[static_cast<std::size_t>(*key)].output.toDouble() + 1e-7
                                 : outputAt(place.x());
    const double now = timing_.speedOf(1).toDouble() * map_->speedAt(output);
    speedEditor_->setText(shownDecimal(displayPercent(Rational(std::llround(now * 10000), 10000))));
    speedEditor_->setGeometry(std::clamp(static_cast<int>(place.x()) - 36, 0, width() - 80),
                              std::clamp(static_cast<int>(place.y()) - 12, 28, height() - 30), 72, 26);
    speedEditor_->show();
    speedEditor_->selectAll();
    speedEditor_->setFocus();
    const Timing before = timing_;
    const LaneKeeping kept = keeping();
    typed_ = [this, before, kept, key, stretch, range = selection_](const QString& typed) {
        try {
            const Rational speed = parseSpeed(bare(typed, {}));
            Timing changed = before;
            if (key || stretch) {
                changed = withSpeedTyped(before, key ? *key : *stretch, key.has_value(), speed, kept);
            } else {
                const TimeKeys keys = before.asKeys();
                std::optional<Rational> anchor;
                if (kept.keeping == Keeping::length)
                    anchor = anchorBetween(range->first, range->last + 1, keys.back().output, kept);
                changed.keys =
                    withSpeedBetween(keys, range->first, range->last + 1, before.stepAt(speed), anchor);
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

std::optional<std::int64_t> ThreadChart::sourceFrameUnder(const QPointF& place, bool byKey) const {
    constexpr double near = 14; // pixels from the rail
    const std::int64_t last = plan_->mediaFrames - 1;
    if (byKey) {
        const auto row = static_cast<std::size_t>(player_.playhead());
        return std::clamp<std::int64_t>(plan_->rows.at(row).position.frame, 0, last);
    }
    if (std::abs(place.y() - at_.sourceY) > near) return std::nullopt;
    const auto frame = std::llround((place.x() - sourceX(0)) / (sourceX(1) - sourceX(0)));
    return frame < 0 || frame > last ? std::nullopt : std::optional<std::int64_t>(frame);
}

void ThreadChart::addSourceMenu(QMenu& menu, std::int64_t frame) {
    menu.addSection(tr("Source frame %1").arg(frame));
    connect(menu.addAction(tr("Show in the source sheet")), &QAction::triggered, this,
            [this, frame] { Q_EMIT sheetAsked(frame); });
    for (const auto& [kind, words] : std::initializer_list<std::pair<CleanupKind, QString>>{
             {CleanupKind::keep, tr("Keep it")},
             {CleanupKind::passOver, tr("Pass over it")},
             {CleanupKind::takeOut, tr("Take it out")},
             {CleanupKind::rebuild, tr("Rebuild it")},
             {CleanupKind::putIn, tr("Put a frame in after it")}})
        connect(menu.addAction(words), &QAction::triggered, this,
                [this, frame, kind = kind] { Q_EMIT decisionAsked(frame, kind); });
    if (plan_->markOf(frame))
        connect(menu.addAction(tr("Take the decision back")), &QAction::triggered, this,
                [this, frame] { Q_EMIT decisionAsked(frame, std::nullopt); });
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
        if (!isChosen(*key)) chosen_ = {*key};
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
        connect(menu->addAction(tr("Take %n keys out", nullptr, static_cast<int>(chosen_.size()))),
                &QAction::triggered, this, &ThreadChart::takeChosenOut);
    } else {
        add(tr("Key at frame %1").arg(frame), tr("add key"),
            [frame](const TimeKeys& keys) { return withKeyAt(keys, frame); });
    }
    if (selection_) {
        const Stretch range = *selection_;
        menu->addSection(tr("Frames %1 to %2").arg(range.first).arg(range.last));
        connect(menu->addAction(tr("Speed of these frames…")), &QAction::triggered, this, [this] {
            typeSpeed({xOf(static_cast<double>(selection_->first + selection_->last) / 2), at_.sourceY + 20});
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
    const bool byKey = asked->reason() == QContextMenuEvent::Keyboard;
    if (const auto source = sourceFrameUnder(place, byKey)) addSourceMenu(*menu, *source);
    if (!copied_.empty()) {
        const std::int64_t moment = std::llround(map_->positionAt(static_cast<double>(frame)));
        add(tr("Paste the timing at source frame %1").arg(moment), tr("paste timing"),
            [moment, copied = copied_](const TimeKeys& keys) { return withExcerpt(keys, copied, moment); });
    }
    menu->popup(asked->globalPos());
}

} // namespace yarngap::app
