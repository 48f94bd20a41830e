// Where on the source axis each output frame lies.
#pragma once

#include "core/time/rational.h"

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace yarngap {

/// A place on the source axis: `frame` plus `phase`, 0 ≤ phase < 1. Position 12.25 is a quarter of the
/// way through gap 12; phase 0 is the source frame itself, exactly.
struct Position {
    std::int64_t frame = 0;
    Rational phase;

    [[nodiscard]] double toDouble() const { return static_cast<double>(frame) + phase.toDouble(); }
    friend bool operator==(const Position&, const Position&) = default;
};

/// What joins a key to the next.
enum class Segment {
    constant, ///< one speed
    eased,    ///< the speed goes smoothly from that at one key to that at the other
    hold      ///< the position stays; both keys have the same
};

/// A point that the map goes through exactly.
struct TimeKey {
    Rational output;                   ///< output frame; may lie between two, so that speeds stay exact
    Rational position;                 ///< place on the source axis
    Segment after = Segment::constant; ///< to the next key
    /// Speed through the key, in source frames per output frame, for the eased segments that end here.
    /// Absent: that of the neighbouring constant segment; between two eased ones the harmonic mean of theirs.
    std::optional<Rational> speed;

    friend bool operator==(const TimeKey&, const TimeKey&) = default;
};

inline constexpr std::size_t mostKeys = 100'000;

/// Throws Error naming the key unless there are 2 to mostKeys, the first lies at output 0, each lies after
/// the one before, positions stay within 10⁹ frames, speeds within 100 times forwards or backwards, and a
/// hold holds.
void validateKeys(std::span<const TimeKey> keys);

/// Position as a function of output frame: continuous, exact at its keys.
///
/// In a constant segment position(n) = position of its key + (n − output of its key) × step, in exact
/// arithmetic, so nothing drifts however long the shot.
///
/// In an eased segment of h output frames, with end speeds v0 and v1, mean speed m = Δposition / h and u the
/// share of it passed, the speed goes from one to the other without leaving their range,
///
///     v(u) = v0 + (v1 − v0) W(u),   W rising from 0 to 1 with the integral w = (m − v0) / (v1 − v0).
///
/// For 1/3 < w < 2/3, W is the distribution function of a triangle with its peak at s = 2 − 3w: u² / s up to
/// there, 1 − (1 − u)² / (1 − s) after it. For smaller w it is u^k with k = 1/w − 1, for larger ones the
/// mirror image; both meet the triangle where they begin.
///
/// A mean outside the range of the end speeds needs a bulge instead,
///
///     v(u) = v0 + (v1 − v0) S(u) + 6 c u (1 − u),   S(u) = 3u² − 2u³,   c = m − (v0 + v1) / 2.
///
/// Where that would turn against the direction of the segment although neither end does, the speed is
/// v0 (1 − u)^p + v1 u^p with p = (v0 + v1) / m − 1, which has the same ends and the same integral and never
/// turns; so the map reverses only where a key or its speed does (compare the condition of Fritsch and
/// Carlson 1980). Positions in eased segments are rounded to 2⁻²⁴ frame.
///
///     TimeMap map(12, Rational(1, 4));   // from source frame 12 at a quarter of the frames
///     map.at(3);                         // 12 + 3/4
class TimeMap {
  public:
    TimeMap() = default;
    /// One constant speed without end. `step`: source frames per output frame, above 0.
    TimeMap(std::int64_t origin, const Rational& step);
    /// Throws Error as validateKeys does. Beyond the last key its segment goes on at its speed.
    explicit TimeMap(std::vector<TimeKey> keys);

    [[nodiscard]] Position at(std::int64_t output) const;
    /// For any place between output frames, to double precision.
    [[nodiscard]] double positionAt(double output) const;
    /// Source frames per output frame there; after a key, where it jumps at one.
    [[nodiscard]] double speedAt(double output) const;
    /// Positions of output frames 0 to count − 1, faster than one by one.
    [[nodiscard]] std::vector<double> positions(std::int64_t count) const;
    /// First output place at which the map reaches `position`, if it does: up to the last key, or, made of a
    /// speed alone, at any distance.
    [[nodiscard]] std::optional<double> outputAt(double position) const;

    [[nodiscard]] const std::vector<TimeKey>& keys() const { return keys_; }
    /// Output place of the last key.
    [[nodiscard]] Rational length() const { return keys_.back().output; }

  private:
    struct Piece {
        Segment kind = Segment::constant;
        Rational output, position, step; ///< step: mean, exact
        double begin = 0, length = 0, origin = 0;
        double v0 = 0, v1 = 0, bulge = 0;
        double power = 0;      ///< above 0: the power form
        double easeShare = -1; ///< w, from 0 to 1; else a bulge
    };
    [[nodiscard]] const Piece& pieceAt(double output) const;
    static double positionIn(const Piece& piece, double output);
    void build();

    std::vector<TimeKey> keys_;
    std::vector<Piece> pieces_;
    bool endless_ = false; ///< made of a speed alone, not of keys that end
};

} // namespace yarngap
