// Where on paths that were measured at source frames an output frame lies.
#pragma once

#include "core/time/frame_plan.h"

#include <cstdint>
#include <optional>

namespace yarngap {

/// A place between two source frames, as the frame made there has it.
struct PathPlace {
    std::int64_t first = 0, last = 0;     ///< source frames; the same for what shows one
    double phase = 0;                     ///< from `first` to `last`, 0 to 1
    bool bends = false;                   ///< things go on bent paths; else straight from one to the other
    std::int64_t before = -1, after = -1; ///< frames that tell how paths bend; −1 where there is none
    std::optional<Shake> shake = {};

    [[nodiscard]] double position() const {
        return static_cast<double>(first) + phase * static_cast<double>(last - first);
    }
    friend bool operator==(const PathPlace&, const PathPlace&) = default;
};

/// Of a source frame as it is.
inline PathPlace placeOfFrame(std::int64_t frame) {
    return {.first = frame, .last = frame};
}

/// Of an output frame: a source frame that is shown lies where it was taken, a made one between.
inline PathPlace placeOfRow(const PlanRow& row, bool bendPaths) {
    if (row.kind == FrameKind::flow)
        return {row.first, row.last, phaseOf(row).toDouble(), bendPaths, row.before, row.after, row.shake};
    if (row.kind != FrameKind::blend) return placeOfFrame(row.first);
    const std::int64_t frame = row.position.frame;
    if (row.position.phase == Rational(0)) return placeOfFrame(frame);
    return {.first = frame, .last = frame + 1, .phase = row.position.phase.toDouble()};
}

/// How far off the straight line a value lies at a place, when at `before`, `first`, `last` and `after` it is
/// p0 to p3: by the cubic through the four, faded and held as bendOf() has it; `told` of it as `shake` says.
double bendOff(double p0, double p1, double p2, double p3, double phase);

} // namespace yarngap
