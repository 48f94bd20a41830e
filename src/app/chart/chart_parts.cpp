// What the thread chart tells a screen reader.

#include "app/chart/lane_edits.h"
#include "app/chart/thread_chart.h"
#include "app/look/numbers.h"
#include "app/stage/frame_sentence.h"
#include "core/error.h"
#include "core/time/map_edits.h"

#include <algorithm>
#include <cmath>

namespace yarngap::app {

using namespace chart;

namespace {

constexpr double mostPercent = 10'000; // see validateKeys

QString spoken(double value) {
    return shownShortly(value, 2);
}

} // namespace

std::vector<int> ThreadChart::constantStretches() const {
    std::vector<int> all;
    if (!map_) return all;
    const auto& keys = map_->keys();
    for (std::size_t i = 0; i + 1 < keys.size(); ++i)
        if (keys[i].after == Segment::constant) all.push_back(static_cast<int>(i));
    return all;
}

int ThreadChart::innerKeys() const {
    return map_ ? std::max(0, static_cast<int>(map_->keys().size()) - 2) : 0;
}

int ThreadChart::partCount() const {
    if (!plan_ || plan_->rows.empty()) return 0;
    const Visible v = visible();
    const auto frames = scale_ >= threadScale ? std::max<std::int64_t>(0, v.last - v.first + 1) : 0;
    return 1 + static_cast<int>(constantStretches().size()) + innerKeys() + static_cast<int>(frames);
}

ThreadChart::PartPlace ThreadChart::placeOfPart(int index) const {
    if (index == 0) return {PartKind::playhead, 0};
    const std::vector<int> stretches = constantStretches();
    auto rest = static_cast<std::size_t>(index - 1);
    if (rest < stretches.size()) return {PartKind::stretch, stretches[rest]};
    rest -= stretches.size();
    const auto keys = static_cast<std::size_t>(innerKeys());
    if (rest < keys) return {PartKind::key, static_cast<std::int64_t>(rest) + 1};
    return {PartKind::frame, visible().first + static_cast<std::int64_t>(rest - keys)};
}

DrawnPart ThreadChart::part(int index) const {
    const PartPlace at = placeOfPart(index);
    switch (at.kind) {
    case PartKind::playhead:
        return playheadPart();
    case PartKind::stretch:
        return stretchPart(static_cast<int>(at.index));
    case PartKind::key:
        return keyPart(static_cast<int>(at.index));
    case PartKind::frame:
        return framePart(at.index);
    }
    return {};
}

int ThreadChart::currentPart() const {
    if (partCount() == 0) return -1;
    if (chosen_.empty()) return 0;
    return static_cast<int>(constantStretches().size()) + chosen_.back();
}

DrawnPart ThreadChart::playheadPart() const {
    const auto last = static_cast<double>(plan_->rows.size() - 1);
    const auto now = static_cast<double>(player_.playhead());
    return {.name = tr("Playhead at output frame %1 of %2").arg(player_.playhead()).arg(plan_->rows.size()),
            .description = tr("Arrow keys move it"),
            .role = QAccessible::Slider,
            .place = {xOf(now) - grasp, speedTop, 2 * grasp, at_.rulerY - speedTop},
            .value = DrawnPart::Value{now, 0, last, 1},
            .canBeSet = true};
}

DrawnPart ThreadChart::stretchPart(int segment) const {
    const auto& keys = map_->keys();
    const TimeKey& from = keys[static_cast<std::size_t>(segment)];
    const TimeKey& to = keys[static_cast<std::size_t>(segment) + 1];
    const double percent = 100 * timing_.speedOf(1).toDouble() * map_->speedAt(from.output.toDouble() + 1e-7);
    const double left = xOf(from.output.toDouble());
    return {.name = tr("Speed %1 % from output frame %2 to %3")
                        .arg(spoken(percent), spoken(from.output.toDouble()), spoken(to.output.toDouble())),
            .role = QAccessible::Slider,
            .place =
                QRectF(left, yOfSpeed(percent / 100) - grasp, xOf(to.output.toDouble()) - left, 2 * grasp)
                    .intersected(lanes()),
            .value = DrawnPart::Value{percent, -mostPercent, mostPercent, 1},
            .canBeSet = true};
}

DrawnPart ThreadChart::keyPart(int key) const {
    const TimeKey& one = map_->keys()[static_cast<std::size_t>(key)];
    const double percent = 100 * timing_.speedOf(1).toDouble() * map_->speedAt(one.output.toDouble() + 1e-7);
    const QPointF at = placeOfKey(key);
    return {.name = tr("Key %1 of %2: output frame %3, source frame %4, speed %5 %")
                        .arg(key)
                        .arg(innerKeys())
                        .arg(spoken(one.output.toDouble()), spoken(one.position.toDouble()), spoken(percent)),
            .description =
                tr("Page Up and Page Down choose a key, Alt with an arrow moves it, Delete takes it out"),
            .role = QAccessible::Slider,
            .place = QRectF(at - QPointF(grasp, grasp), QSizeF(2 * grasp, 2 * grasp)).intersected(lanes()),
            .isSelected = isChosen(key),
            .value = DrawnPart::Value{percent, -mostPercent, mostPercent, 1},
            .canBeSet = true};
}

DrawnPart ThreadChart::framePart(std::int64_t output) const {
    const PlanRow& row = plan_->rows[static_cast<std::size_t>(output)];
    std::optional<double> doubt;
    if (row.kind == FrameKind::flow) {
        const auto bar = std::ranges::lower_bound(doubts_, row.first, {}, &DoubtBar::first);
        if (bar != doubts_.end() && bar->first == row.first) doubt = bar->doubt;
    }
    const auto last = static_cast<double>(plan_->mediaFrames) - 1;
    return {.name = frameSentence(*plan_, row, doubt),
            .place = {xOf(static_cast<double>(output)) - scale_ / 2, at_.sourceY, scale_,
                      at_.readyY - at_.sourceY},
            .isSelected = output == player_.playhead(),
            .value = DrawnPart::Value{row.position.toDouble(), 0, last, 0}};
}

void ThreadChart::pressPart(int index) {
    const PartPlace at = placeOfPart(index);
    if (at.kind == PartKind::frame) return player_.goTo(at.index);
    if (at.kind == PartKind::playhead) return;
    if (at.kind == PartKind::key) chosen_ = {static_cast<int>(at.index)};
    player_.goTo(map_->keys()[static_cast<std::size_t>(at.index)].output.round());
    redraw();
}

void ThreadChart::setPart(int index, double value) {
    const PartPlace at = placeOfPart(index);
    if (at.kind == PartKind::playhead) return player_.goTo(std::llround(value));
    if (at.kind == PartKind::frame) return;
    try {
        const Rational speed(std::llround(value * 1000), 100'000); // as exact as it is shown
        const bool isKey = at.kind == PartKind::key;
        const Timing changed = withSpeedTyped(timing_, static_cast<int>(at.index), isKey, speed, keeping());
        validate(changed);
        Q_EMIT timingAsked(changed, isKey ? tr("speed at a key") : tr("speed of a stretch"));
    } catch (const Error& error) {
        Q_EMIT refused(QString::fromStdString(error.what()));
    }
}

} // namespace yarngap::app
