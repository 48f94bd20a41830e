#include "app/chart/lane_edits.h"

#include "app/look/language.h"
#include "app/look/numbers.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

template <typename Change>
Timing changed(const Timing& before, const Change& change) {
    try {
        Timing now = before;
        if (!now.varies()) now.keys = now.asKeys();
        now.keys = change(now.keys);
        validate(now);
        return now;
    } catch (const Error&) {
        return before; // dragged past what is possible
    }
}

/// The step for `speed` in the direction of segment `i`.
Rational stepFor(const Timing& timing, const TimeKeys& keys, std::size_t i, const Rational& speed) {
    const Rational step = timing.stepAt(speed);
    const bool back = keys[i + 1].position < keys[i].position;
    return back && speed > Rational(0) ? Rational(0) - step : step;
}

} // namespace

Rational roundedSpeed(double speed) {
    const double percent = std::abs(speed) * 100;
    if (percent >= 5) return {std::min<std::int64_t>(std::llround(percent), 10000), 100};
    return {std::max<std::int64_t>(1, std::llround(percent * 10)), 1000};
}

Rational anchorBetween(const Rational& begin, const Rational& end, const Rational& length,
                       const LaneKeeping& kept) {
    if (begin <= Rational(0)) return begin;
    if (end >= length) return end;
    return kept.anchor == Anchor::first  ? begin
           : kept.anchor == Anchor::last ? end
                                         : std::clamp(kept.playhead, begin, end);
}

Timing withStretchAt(const Timing& before, int segment, const Rational& speed, const LaneKeeping& kept) {
    const bool keepsLength = kept.keeping == Keeping::length;
    const bool oneSpeed =
        !before.varies() || (before.keys.size() == 2 && before.keys.front().after == Segment::constant);
    Timing now = before;
    if (!before.varies() || (oneSpeed && keepsLength)) {
        const Rational end(before.outputFrames());
        now = !keepsLength ? withSpeed(before, speed)
                           : withSpeedAbout(before, speed,
                                            kept.anchor == Anchor::first  ? Rational(0)
                                            : kept.anchor == Anchor::last ? end
                                                                          : std::min(kept.playhead, end),
                                            kept.mediaFrames);
    } else {
        const auto i = static_cast<std::size_t>(segment);
        const TimeKeys& keys = before.keys;
        const Rational step = stepFor(before, keys, i, speed);
        if (!keepsLength) {
            now.keys = withStretchSpeed(keys, i, step);
            if (oneSpeed) now.speed = std::max(speed, Rational(0) - speed);
        } else {
            const Rational anchor =
                anchorBetween(keys[i].output, keys[i + 1].output, keys.back().output, kept);
            now.keys = withSegmentSpeedAbout(keys, i, step, anchor);
        }
    }
    validate(now);
    return now;
}

Timing withSpeedTyped(const Timing& before, int index, bool isKey, const Rational& speed,
                      const LaneKeeping& kept) {
    const TimeKeys keys = before.asKeys();
    auto i = static_cast<std::size_t>(index);
    if (isKey && keys[i].after != Segment::constant && keys[i - 1].after == Segment::constant) --i;
    if (!before.varies() || keys[i].after != Segment::eased)
        return withStretchAt(before, static_cast<int>(i), speed, kept);
    Timing changed = before;
    changed.keys = withKeySpeed(keys, i, before.stepAt(speed));
    return changed;
}

Timing withStretchDragged(const Timing& before, int segment, double speed, const LaneKeeping& kept) {
    try {
        return withStretchAt(before, segment, roundedSpeed(speed), kept);
    } catch (const Error&) {
        return before;
    }
}

Timing withKeyLifted(const Timing& before, int key, double speed, const LaneKeeping& kept) {
    const TimeKeys keys = before.asKeys();
    const auto i = static_cast<std::size_t>(key);
    if (i + 1 < keys.size() && keys[i].after == Segment::constant)
        return withStretchDragged(before, key, speed, kept);
    if (i > 0 && keys[i - 1].after == Segment::constant)
        return withStretchDragged(before, key - 1, speed, kept);
    return changed(before, [&](const TimeKeys& now) {
        return withKeySpeed(now, i, stepFor(before, now, std::min(i, now.size() - 2), roundedSpeed(speed)));
    });
}

namespace {

std::vector<std::size_t> indices(const std::vector<int>& keys) {
    return {keys.begin(), keys.end()};
}

} // namespace

Timing withKeysSlid(const Timing& before, const std::vector<int>& which, const Rational& by,
                    Keeping keeping) {
    return changed(before, [&](const TimeKeys& keys) {
        const auto i = static_cast<std::size_t>(which.front());
        if (keeping == Keeping::speeds || i == 0 || which.size() > 1)
            return withMomentsMoved(keys, indices(which), by, keeping);
        const Rational way = keys[i].position - keys[i - 1].position;
        if (way == Rational(0)) return keys;
        const Rational later = by * (keys[i].output - keys[i - 1].output) / way;
        return withKeyMoved(keys, i, keys[i].output + later, keys[i].position + by, keeping);
    });
}

Timing withKeysScaled(const Timing& before, const std::vector<int>& which, int fixed, int pulled,
                      const Rational& by, Keeping keeping) {
    return changed(before, [&](const TimeKeys& keys) {
        const auto still = static_cast<std::size_t>(fixed);
        const Rational away = keys[static_cast<std::size_t>(pulled)].position - keys[still].position;
        if (away == Rational(0)) return keys;
        return withMomentsScaled(keys, indices(which), still, (away + by) / away, keeping);
    });
}

Timing withKeyPut(const Timing& before, int key, const Rational& output, const Rational& position,
                  Keeping keeping) {
    return changed(before, [&](const TimeKeys& keys) {
        const auto i = static_cast<std::size_t>(key);
        TimeKeys now = withKeyMoved(keys, i, output, position, keeping);
        if (keeping == Keeping::speeds && i > 0 && i + 1 < now.size()) {
            // What comes later moves in the output only: its source moments stay.
            for (std::size_t k = i + 1; k < now.size(); ++k)
                now[k].position = keys[k].position;
            const Rational slope =
                (keys[i + 1].position - keys[i].position) / (keys[i + 1].output - keys[i].output);
            const Rational way = now[i + 1].position - now[i].position;
            if (slope != Rational(0) && way / slope > Rational(0)) {
                const Rational shift = now[i].output + way / slope - now[i + 1].output;
                for (std::size_t k = i + 1; k < now.size(); ++k)
                    now[k].output = now[k].output + shift;
            }
        }
        return now;
    });
}

std::vector<int> keysOfStretch(const Timing& timing, int segment) {
    const auto eased = [&](int i) {
        return i >= 0 && static_cast<std::size_t>(i) + 1 < timing.keys.size() &&
               timing.keys[static_cast<std::size_t>(i)].after == Segment::eased;
    };
    std::vector<int> keys{segment, segment + 1};
    if (eased(segment - 1)) keys.insert(keys.begin(), segment - 1);
    if (eased(segment + 1)) keys.push_back(segment + 2);
    return keys;
}

QString dragWords(const Timing& before, const Timing& now, int segment) {
    const auto tr = [](const char* words) { return translated(words); };
    const TimeKeys keys = now.asKeys();
    QStringList words;
    if (now.from != before.from || now.to != before.to)
        words << tr("source %1 to %2").arg(now.from).arg(now.to);
    if (segment >= 0 && static_cast<std::size_t>(segment) + 1 < keys.size()) {
        const TimeKey& from = keys[static_cast<std::size_t>(segment)];
        const TimeKey& to = keys[static_cast<std::size_t>(segment) + 1];
        const Rational way = to.position - from.position;
        const Rational length = to.output - from.output;
        words << shownDecimal(displayPercent(now.speedOf(way / length), 1))
              << tr("%1 → %2 frames")
                     .arg(shownShortly(std::abs(way.toDouble()), 1))
                     .arg(shownShortly(length.toDouble(), 1));
    }
    const std::int64_t by = now.outputFrames() - before.outputFrames();
    words << tr("total %1 f, %2 (%3)")
                 .arg(now.outputFrames())
                 .arg(seconds(now.outputSeconds()), by == 0  ? tr("as before")
                                                    : by > 0 ? QStringLiteral("+%1").arg(by)
                                                             : QStringLiteral("−%1").arg(-by));
    return words.join(QStringLiteral(" · "));
}

} // namespace yarngap::app
