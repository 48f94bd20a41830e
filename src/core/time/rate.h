// Frame rates, kept as exact fractions.
#pragma once

#include "core/time/rational.h"

#include <string>
#include <string_view>

namespace yarngap {

/// Frames per second as an exact, positive fraction: 24000/1001 is never 23.976 inside.
class Rate {
  public:
    constexpr Rate()
        : value_(24) {}
    /// Throws Error unless 1/1000 ≤ value ≤ 100,000 frames per second.
    explicit Rate(const Rational& value);
    Rate(std::int64_t num, std::int64_t den)
        : Rate(Rational(num, den)) {}

    static constexpr Rational largest{100000};

    /// Reads "25", "24000/1001" or "12.5". The decimals that the trade writes for the 1000/1001 rates
    /// ("23.976", "23.98", "29.97", "47.95", "59.94", "119.88") mean those rates exactly.
    static Rate parse(std::string_view text);
    /// The standard rate within a ten-thousandth of `measured`, else `measured` itself. For rates that
    /// a container rounded to its own clock.
    static Rate snapped(const Rational& measured);

    [[nodiscard]] const Rational& value() const { return value_; }
    [[nodiscard]] std::int64_t num() const { return value_.num(); }
    [[nodiscard]] std::int64_t den() const { return value_.den(); }
    [[nodiscard]] double toDouble() const { return value_.toDouble(); }
    /// As the trade writes it, at most three decimals: "24", "23.976", "29.97".
    [[nodiscard]] std::string display() const;
    /// Exact: "24000/1001" or "25".
    [[nodiscard]] std::string toString() const { return value_.toString(); }

    friend bool operator==(const Rate&, const Rate&) = default;

  private:
    Rational value_;
};

} // namespace yarngap
