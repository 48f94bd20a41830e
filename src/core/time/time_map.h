// Where on the source axis each output frame lies.
#pragma once

#include "core/time/rate.h"

#include <cstdint>

namespace yarngap {

/// A place on the source axis: `frame` plus `phase`, 0 ≤ phase < 1. Position 12.25 is a quarter of the
/// way through gap 12; phase 0 is the source frame itself, exactly.
struct Position {
    std::int64_t frame = 0;
    Rational phase;

    [[nodiscard]] double toDouble() const { return static_cast<double>(frame) + phase.toDouble(); }
    friend bool operator==(const Position&, const Position&) = default;
};

/// Position as a function of output frame. For now one segment of constant speed.
///
/// position(n) = origin + n × step, in exact arithmetic, so nothing drifts however long the shot.
///
///     TimeMap map(12, Rational(1, 4));   // from source frame 12 at a quarter of the frames
///     map.at(3);                         // 12 + 3/4
class TimeMap {
  public:
    TimeMap() = default;
    /// `step`: source frames per output frame, above 0.
    TimeMap(std::int64_t origin, const Rational& step);

    [[nodiscard]] Position at(std::int64_t output) const;
    [[nodiscard]] const Rational& step() const { return step_; }

  private:
    std::int64_t origin_ = 0;
    Rational step_ = 1;
};

} // namespace yarngap
