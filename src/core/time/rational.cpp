#include "core/time/rational.h"

#include "core/error.h"

#include <charconv>
#include <limits>

namespace yarngap {

namespace {

Int128 gcd(Int128 a, Int128 b) {
    if (a < 0) a = -a;
    if (b < 0) b = -b;
    while (b != 0) {
        const Int128 r = a % b;
        a = b;
        b = r;
    }
    return a;
}

bool readDigits(std::string_view text, std::int64_t& value) {
    if (text.empty()) return false;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value);
    return ec == std::errc() && end == text.data() + text.size() && text[0] != '-';
}

} // namespace

Int128 floorDiv(Int128 n, Int128 d) {
    const Int128 q = n / d;
    return (n % d != 0 && n < 0) ? q - 1 : q;
}

Rational Rational::reduced(Int128 num, Int128 den) {
    if (den < 0) {
        num = -num;
        den = -den;
    }
    const Int128 g = gcd(num, den);
    if (g > 1) {
        num /= g;
        den /= g;
    }
    constexpr Int128 limit = std::numeric_limits<std::int64_t>::max();
    if (num > limit || num < -limit || den > limit)
        throw Error("A number has too many digits to be kept exactly. Use fewer decimals.");
    Rational r;
    r.num_ = static_cast<std::int64_t>(num);
    r.den_ = static_cast<std::int64_t>(den);
    return r;
}

Rational::Rational(std::int64_t num, std::int64_t den) {
    if (den == 0) throw Error("A fraction cannot have 0 below the line.");
    *this = reduced(num, den);
}

Rational Rational::parse(std::string_view text) {
    const auto bad = [&] {
        return Error("\"" + std::string(text) +
                     "\" is not a number. Write for example 25, 12.5 or 24000/1001.");
    };
    std::string_view rest = text;
    const bool negative = !rest.empty() && rest.front() == '-';
    if (negative) rest.remove_prefix(1);

    Rational value;
    if (const auto slash = rest.find('/'); slash != std::string_view::npos) {
        std::int64_t num = 0;
        std::int64_t den = 0;
        if (!readDigits(rest.substr(0, slash), num) || !readDigits(rest.substr(slash + 1), den) || den == 0)
            throw bad();
        value = Rational(num, den);
    } else {
        const auto dot = rest.find('.');
        const std::string_view whole = rest.substr(0, dot);
        const std::string_view decimals = dot == std::string_view::npos ? "" : rest.substr(dot + 1);
        std::int64_t w = 0;
        std::int64_t d = 0;
        if (whole.empty() && decimals.empty()) throw bad();
        if (!whole.empty() && !readDigits(whole, w)) throw bad();
        if (!decimals.empty() && (decimals.size() > 12 || !readDigits(decimals, d))) throw bad();
        std::int64_t scale = 1;
        for (std::size_t i = 0; i < decimals.size(); ++i)
            scale *= 10;
        value = reduced(static_cast<Int128>(w) * scale + d, scale);
    }
    if (negative) value.num_ = -value.num_;
    return value;
}

std::int64_t Rational::floor() const {
    return static_cast<std::int64_t>(floorDiv(num_, den_));
}

std::int64_t Rational::round() const {
    return static_cast<std::int64_t>(
        floorDiv(static_cast<Int128>(num_) * 2 + den_, static_cast<Int128>(den_) * 2));
}

std::string Rational::toString() const {
    return den_ == 1 ? std::to_string(num_) : std::to_string(num_) + "/" + std::to_string(den_);
}

Rational operator+(const Rational& a, const Rational& b) {
    return Rational::reduced(static_cast<Int128>(a.num_) * b.den_ + static_cast<Int128>(b.num_) * a.den_,
                             static_cast<Int128>(a.den_) * b.den_);
}

Rational operator-(const Rational& a, const Rational& b) {
    return Rational::reduced(static_cast<Int128>(a.num_) * b.den_ - static_cast<Int128>(b.num_) * a.den_,
                             static_cast<Int128>(a.den_) * b.den_);
}

Rational operator*(const Rational& a, const Rational& b) {
    return Rational::reduced(static_cast<Int128>(a.num_) * b.num_, static_cast<Int128>(a.den_) * b.den_);
}

Rational operator/(const Rational& a, const Rational& b) {
    if (b.num_ == 0) throw Error("A division by 0 was asked for.");
    return Rational::reduced(static_cast<Int128>(a.num_) * b.den_, static_cast<Int128>(a.den_) * b.num_);
}

std::strong_ordering operator<=>(const Rational& a, const Rational& b) {
    return static_cast<Int128>(a.num_) * b.den_ <=> static_cast<Int128>(b.num_) * a.den_;
}

} // namespace yarngap
