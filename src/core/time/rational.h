// Exact fractions of 64-bit integers, for speeds, rates and phases.
#pragma once

#include <compare>
#include <cstdint>
#include <string>
#include <string_view>

namespace yarngap {

__extension__ using Int128 = __int128;

/// Largest integer not above n/d; d > 0.
Int128 floorDiv(Int128 n, Int128 d);

/// An exact fraction, always reduced, denominator always positive.
///
/// Every operation is exact; a result that does not fit 64-bit numerator and denominator throws Error
/// rather than lose precision.
///
///     Rational speed = Rational::parse("33.3") / 100;   // 333/1000
class Rational {
  public:
    constexpr Rational() = default;
    constexpr Rational(std::int64_t whole)
        : num_(whole) {} // NOLINT(google-explicit-constructor)
    Rational(std::int64_t num, std::int64_t den);

    /// Reads "12", "-0.5", "33.333" or "24000/1001" exactly. Throws Error naming `text`.
    static Rational parse(std::string_view text);
    /// Reduces a 128-bit fraction; throws Error when it does not fit. `den` must not be 0.
    static Rational reduced(Int128 num, Int128 den);

    [[nodiscard]] std::int64_t num() const { return num_; }
    [[nodiscard]] std::int64_t den() const { return den_; }
    [[nodiscard]] double toDouble() const { return static_cast<double>(num_) / static_cast<double>(den_); }
    /// Largest integer not above the value.
    [[nodiscard]] std::int64_t floor() const;
    /// Nearest integer, halves upwards.
    [[nodiscard]] std::int64_t round() const;
    /// "3/4" or "12".
    [[nodiscard]] std::string toString() const;

    friend Rational operator+(const Rational& a, const Rational& b);
    friend Rational operator-(const Rational& a, const Rational& b);
    friend Rational operator*(const Rational& a, const Rational& b);
    friend Rational operator/(const Rational& a, const Rational& b);
    friend bool operator==(const Rational& a, const Rational& b) = default;
    friend std::strong_ordering operator<=>(const Rational& a, const Rational& b);

  private:
    std::int64_t num_ = 0;
    std::int64_t den_ = 1;
};

} // namespace yarngap
