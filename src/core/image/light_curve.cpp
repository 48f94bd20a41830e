#include "core/image/light_curve.h"

#include "core/image/colour_codes.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

using namespace h273;

namespace {

double gammaOf(int transfer) {
    return transfer == gamma22 ? 2.2 : transfer == gamma28 ? 2.8 : 2.4; // 2.4: BT.1886, how video is shown
}

// SMPTE ST 2084.
constexpr double m1 = 2610.0 / 16384;
constexpr double m2 = 2523.0 / 4096 * 128;
constexpr double c1 = 3424.0 / 4096;
constexpr double c2 = 2413.0 / 4096 * 32;
constexpr double c3 = 2392.0 / 4096 * 32;

// ARIB STD-B67.
constexpr double hlgA = 0.17883277;
constexpr double hlgB = 1 - 4 * hlgA;
constexpr double hlgC = 0.55991073; // 0.5 − a ln(4a)

constexpr int steps = 4096;

} // namespace

double lightOf(int transfer, double e) {
    switch (transfer) {
    case linear:
        return e;
    case sRgb:
        return e <= 0.04045 ? e / 12.92 : std::pow((e + 0.055) / 1.055, 2.4);
    case pq: {
        const double p = std::pow(e, 1 / m2);
        return std::pow(std::max(0.0, p - c1) / (c2 - c3 * p), 1 / m1);
    }
    case hlg:
        return e <= 0.5 ? e * e / 3 : (std::exp((e - hlgC) / hlgA) + hlgB) / 12;
    default:
        return std::pow(e, gammaOf(transfer));
    }
}

double encodedOf(int transfer, double l) {
    switch (transfer) {
    case linear:
        return l;
    case sRgb:
        return l <= 0.0031308 ? 12.92 * l : 1.055 * std::pow(l, 1 / 2.4) - 0.055;
    case pq: {
        const double p = std::pow(l, m1);
        return std::pow((c1 + c2 * p) / (1 + c3 * p), m2);
    }
    case hlg:
        return l <= 1.0 / 12 ? std::sqrt(3 * l) : hlgA * std::log(12 * l - hlgB) + hlgC;
    default:
        return std::pow(l, 1 / gammaOf(transfer));
    }
}

LightTable::LightTable(int transfer)
    : light_(steps + 2)
    , encoded_(steps + 2) {
    for (int i = 0; i <= steps; ++i) {
        const double s = static_cast<double>(i) / steps;
        const auto at = static_cast<std::size_t>(i);
        light_[at] = static_cast<float>(lightOf(transfer, s));
        encoded_[at] = static_cast<float>(encodedOf(transfer, s * s * s * s));
    }
    light_.back() = light_[steps]; // spare, so that 1 needs no case of its own
    encoded_.back() = encoded_[steps];
}

float LightTable::encoded(float light) const {
    return read(encoded_, std::sqrt(std::sqrt(std::max(0.0F, light))));
}

float LightTable::read(const std::vector<float>& table, float at) {
    const float place = std::clamp(at, 0.0F, 1.0F) * steps;
    const int i = static_cast<int>(place);
    const float f = place - static_cast<float>(i);
    const float* t = table.data() + i;
    return (1 - f) * t[0] + f * t[1];
}

} // namespace yarngap
