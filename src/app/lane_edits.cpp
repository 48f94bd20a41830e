#include "app/lane_edits.h"

#include "app/step_layout.h"
#include "core/error.h"

#include <QCoreApplication>

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
Rational stepFor(const Timing& timing, const TimeKeys& keys, std::size_t i, double speed) {
    const Rational step = timing.stepAt(roundedSpeed(speed));
    return keys[i + 1].position < keys[i].position ? Rational(0) - step : step;
}

} // namespace

Rational roundedSpeed(double speed) {
    const double percent = std::abs(speed) * 100;
    if (percent >= 5) return {std::min<std::int64_t>(std::llround(percent), 10000), 100};
    return {std::max<std::int64_t>(1, std::llround(percent * 10)), 1000};
}

Timing withStretchDragged(const Timing& before, int segment, double speed, Keeping keeping) {
    if (!before.varies()) {
        Timing now = before;
        now.speed = roundedSpeed(speed);
        try {
            validate(now);
            return now;
        } catch (const Error&) {
            return before;
        }
    }
    return changed(before, [&](const TimeKeys& keys) {
        const auto i = static_cast<std::size_t>(segment);
        const Rational step = stepFor(before, keys, i, speed);
        return keeping == Keeping::speeds ? withStretchSpeed(keys, i, step)
                                          : withSegmentSpeed(keys, i, step, keeping);
    });
}

Timing withKeyLifted(const Timing& before, int key, double speed, Keeping keeping) {
    const TimeKeys keys = before.asKeys();
    const auto i = static_cast<std::size_t>(key);
    if (i + 1 < keys.size() && keys[i].after == Segment::constant)
        return withStretchDragged(before, key, speed, keeping);
    if (i > 0 && keys[i - 1].after == Segment::constant)
        return withStretchDragged(before, key - 1, speed, keeping);
    return changed(before, [&](const TimeKeys& now) {
        return withKeySpeed(now, i, stepFor(before, now, std::min(i, now.size() - 2), speed));
    });
}

Timing withKeysSlid(const Timing& before, int first, int last, const Rational& by, Keeping keeping) {
    return changed(before, [&](const TimeKeys& keys) {
        const auto i = static_cast<std::size_t>(first);
        const auto j = static_cast<std::size_t>(last);
        if (keeping == Keeping::speeds || i == 0 || i != j) return withMomentsMoved(keys, i, j, by);
        const Rational way = keys[i].position - keys[i - 1].position;
        if (way == Rational(0)) return keys;
        const Rational later = by * (keys[i].output - keys[i - 1].output) / way;
        return withKeyMoved(keys, i, keys[i].output + later, keys[i].position + by, keeping);
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

std::pair<int, int> keysOfStretch(const Timing& timing, int segment) {
    const auto eased = [&](int i) {
        return i >= 0 && static_cast<std::size_t>(i) + 1 < timing.keys.size() &&
               timing.keys[static_cast<std::size_t>(i)].after == Segment::eased;
    };
    return {eased(segment - 1) ? segment - 1 : segment, eased(segment + 1) ? segment + 2 : segment + 1};
}

QString dragWords(const Timing& before, const Timing& now, int segment) {
    const auto tr = [](const char* words) { return QCoreApplication::translate("SpeedLane", words); };
    const TimeKeys keys = now.asKeys();
    QStringList words;
    if (segment >= 0 && static_cast<std::size_t>(segment) + 1 < keys.size()) {
        const TimeKey& from = keys[static_cast<std::size_t>(segment)];
        const TimeKey& to = keys[static_cast<std::size_t>(segment) + 1];
        const Rational way = to.position - from.position;
        const Rational length = to.output - from.output;
        words << text(displayPercent(now.speedOf(way / length), 1))
              << tr("%1 → %2 frames")
                     .arg(std::round(std::abs(way.toDouble()) * 10) / 10)
                     .arg(std::round(length.toDouble() * 10) / 10);
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
