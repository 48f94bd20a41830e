#include "core/time/rate.h"

#include "core/decimal.h"
#include "core/error.h"

#include <array>
#include <cmath>

namespace yarngap {

namespace {

struct Written {
    std::string_view text;
    std::int64_t num;
};

constexpr std::array<Written, 12> writtenRates{{{"23.976", 24000},
                                                {"23.98", 24000},
                                                {"29.97", 30000},
                                                {"47.95", 48000},
                                                {"47.952", 48000},
                                                {"59.94", 60000},
                                                {"71.928", 72000},
                                                {"95.904", 96000},
                                                {"119.88", 120000},
                                                {"14.985", 15000},
                                                {"239.76", 240000},
                                                {"11.988", 12000}}};

} // namespace

Rate::Rate(const Rational& value)
    : value_(value) {
    if (value < Rational(1, 1000) || value > largest)
        throw Error("A frame rate of " + value.toString() +
                    " is out of range. Use 0.001 to 100,000 frames per second.");
}

Rate Rate::parse(std::string_view text) {
    for (const Written& w : writtenRates)
        if (w.text == text) return Rate(w.num, 1001);
    return Rate(Rational::parse(text));
}

Rate Rate::snapped(const Rational& measured) {
    const double m = measured.toDouble();
    const auto near = [m](double standard) { return std::abs(m - standard) <= standard * 1e-4; };
    for (const std::int64_t whole : {12, 15, 24, 25, 30, 48, 50, 60, 72, 90, 96, 100, 120, 144, 200, 240}) {
        if (near(static_cast<double>(whole))) return Rate(whole, 1);
        if (near(static_cast<double>(whole) * 1000.0 / 1001.0)) return Rate(whole * 1000, 1001);
    }
    return Rate(measured);
}

std::string Rate::display() const {
    std::string s = decimal(toDouble(), 3);
    while (s.back() == '0')
        s.pop_back();
    if (s.back() == '.') s.pop_back();
    return s;
}

} // namespace yarngap
