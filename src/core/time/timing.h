// What the editor asks of a shot's timing, and the arithmetic nobody should do on paper.
#pragma once

#include "core/time/rate.h"
#include "core/time/time_map.h"

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// Trim, speed and rates of a shot. A plain value; every `with…` function below is pure.
struct Timing {
    Rate sourceRate;       ///< rate at which the source frames were taken
    Rate outputRate;       ///< rate of the result
    std::int64_t from = 0; ///< first source frame used, counted from 0
    std::int64_t to = 0;   ///< last source frame used, included
    Rational speed = 1;    ///< source seconds per output second; 1/4 is 25 %
    /// A speed that changes: keys on the source axis. Empty: constant `speed` from first to last frame. A map
    /// that runs once through goes from `from` to `to` + 1, where the last frame ends.
    std::vector<TimeKey> keys = {};

    [[nodiscard]] std::int64_t sourceFrames() const { return to - from + 1; }
    /// Source frames per output frame at the constant speed: speed × source rate / output rate.
    [[nodiscard]] Rational step() const { return stepAt(speed); }
    [[nodiscard]] Rational stepAt(const Rational& someSpeed) const;
    /// The speed at which `step` source frames pass per output frame.
    [[nodiscard]] Rational speedOf(const Rational& step) const;
    [[nodiscard]] bool varies() const { return !keys.empty(); }
    /// round(frames / speed × outputRate / sourceRate), or round(output of the last key); halves upwards, at
    /// least 1.
    [[nodiscard]] std::int64_t outputFrames() const;
    [[nodiscard]] TimeMap map() const;
    /// The keys, or the two that a constant speed amounts to.
    [[nodiscard]] std::vector<TimeKey> asKeys() const;
    /// Length of the result in seconds: output frames / output rate.
    [[nodiscard]] Rational outputSeconds() const;
    /// Length of the result over length of the source: 1 / speed, or that of the whole.
    [[nodiscard]] Rational lengthFactor() const;

    friend bool operator==(const Timing&, const Timing&) = default;
};

inline constexpr std::int64_t maxOutputFrames = 10'000'000;

/// Throws Error naming the range unless 0.1 % ≤ speed ≤ 10,000 %, the trim is in order, and the result
/// has at most maxOutputFrames frames.
void validate(const Timing& timing);

/// A constant speed; keys are dropped.
Timing withSpeed(Timing timing, const Rational& speed);
/// Another constant speed of the whole at which the result keeps its length: what shows at output place
/// `anchor` (0 to the number of output frames) stays there, and first and last source frame move within the
/// `mediaFrames` of the file. Throws Error naming what is missing where the file has not got them, and for a
/// speed that changes.
Timing withSpeedAbout(const Timing& timing, const Rational& speed, const Rational& anchor,
                      std::int64_t mediaFrames);
/// Speed such that the result has exactly `frames` output frames; frames ≥ 1. Here and in the other lengths,
/// a speed that changes keeps its shape and is stretched.
Timing withLengthFrames(const Timing& timing, std::int64_t frames);
/// Speed such that the result lasts `seconds`, before rounding to whole frames; seconds > 0.
Timing withLengthSeconds(const Timing& timing, const Rational& seconds);
Timing withLengthFactor(const Timing& timing, const Rational& factor);
/// Each source frame is shown exactly once: speed = output rate / source rate.
Timing withEveryFrame(const Timing& timing);

/// Another trim, which moves nothing else: a speed that changes is cut, or goes on at the speed of its ends;
/// one that turns around stays as it is.
Timing withTrim(Timing timing, std::int64_t from, std::int64_t to);
/// Another rate of the result, which lasts as long.
Timing withOutputRate(Timing timing, const Rate& rate);

/// "25%", "25 %" or "25" as speed 1/4. Throws Error.
Rational parseSpeed(std::string_view text);
/// "25 %", "33.333 %": at most `decimals` decimals, no trailing zeros.
std::string displayPercent(const Rational& speed, int decimals = 3);
/// Sets the length from "8s", "8.5 s", "192f" or "00:00:08:00" at the output rate. Throws Error.
Timing withLengthText(const Timing& timing, std::string_view text);

} // namespace yarngap
