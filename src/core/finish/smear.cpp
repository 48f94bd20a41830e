#include "core/finish/smear.h"

#include "core/choice_names.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yarngap {

namespace {

constexpr ChoiceNames<SmearPeak, 3> peaks{
    "peak of a smear",
    {{{SmearPeak::start, "start"}, {SmearPeak::middle, "middle"}, {SmearPeak::end, "end"}}}};

/// Place of a row or column in the picture mirrored at its edges.
int mirrored(int i, int n) {
    if (n == 1) return 0;
    const int period = 2 * n;
    i = ((i % period) + period) % period;
    return i < n ? i : period - 1 - i;
}

constexpr int taps = 4;

/// A row shifted by (dx, dy), a quarter of it added to `sum`; read by lines between samples, or, where
/// `finely` is off, at the nearest.
void addShifted(const FloatPlane& in, int y, double dx, double dy, bool finely, float* sum) {
    constexpr float share = 1.0F / taps;
    const double px = finely ? std::floor(dx) : std::round(dx);
    const double py = finely ? std::floor(dy) : std::round(dy);
    const auto sx = static_cast<int>(px);
    const auto sy = static_cast<int>(py);
    const float* upper = in.row(mirrored(y + sy, in.height));
    const int begin = std::clamp(-sx, 0, in.width);
    const int end = std::clamp(in.width - 1 - sx, begin, in.width);
    if (!finely) {
        for (int x = begin; x < end; ++x)
            sum[x] += share * upper[x + sx];
        const auto edge = [&](int from, int to) {
            for (int x = from; x < to; ++x)
                sum[x] += share * upper[mirrored(x + sx, in.width)];
        };
        edge(0, begin);
        edge(end, in.width);
        return;
    }
    const float* lower = in.row(mirrored(y + sy + 1, in.height));
    const auto fx = static_cast<float>(dx - px);
    const auto fy = static_cast<float>(dy - py);
    const float w00 = share * (1 - fx) * (1 - fy);
    const float w10 = share * fx * (1 - fy);
    const float w01 = share * (1 - fx) * fy;
    const float w11 = share * fx * fy;
    for (int x = begin; x < end; ++x)
        sum[x] +=
            w00 * upper[x + sx] + w10 * upper[x + sx + 1] + w01 * lower[x + sx] + w11 * lower[x + sx + 1];
    const auto edge = [&](int from, int to) {
        for (int x = from; x < to; ++x) {
            const int left = mirrored(x + sx, in.width);
            const int right = mirrored(x + sx + 1, in.width);
            sum[x] += w00 * upper[left] + w10 * upper[right] + w01 * lower[left] + w11 * lower[right];
        }
    };
    edge(0, begin);
    edge(end, in.width);
}

/// The mean of four copies of the plane, (dx, dy) apart, about its own place.
FloatPlane meanOfFour(const FloatPlane& in, double dx, double dy) {
    FloatPlane out(in.width, in.height);
    constexpr double fine = 24; // samples apart, below which the nearest one leaves a comb
    const bool finely = std::hypot(dx, dy) < fine;
    tbb::parallel_for(0, in.height, [&](int y) {
        float* row = out.row(y);
        std::fill_n(row, in.width, 0.0F);
        for (int i = 0; i < taps; ++i) {
            const double at = i - (taps - 1) / 2.0;
            addShifted(in, y, at * dx, at * dy, finely, row);
        }
    });
    return out;
}

} // namespace

std::string_view name(SmearPeak value) {
    return peaks.nameOf(value);
}
SmearPeak parseSmearPeak(std::string_view text) {
    return peaks.parse(text);
}

double strengthAt(const Smear& smear, double place) {
    const double from = smear.from.toDouble();
    const double to = smear.to.toDouble();
    if (!(place >= from && place <= to)) return 0;
    const double u = to > from ? (place - from) / (to - from) : 1;
    constexpr double quarter = std::numbers::pi / 2;
    const auto squared = [](double v) { return v * v; };
    switch (smear.peak) {
    case SmearPeak::start:
        return squared(std::cos(quarter * u));
    case SmearPeak::end:
        return squared(std::sin(quarter * u));
    case SmearPeak::middle:
        return squared(std::sin(2 * quarter * u));
    }
    return 0;
}

SmearNow smearAt(std::span<const Smear> smears, double place) {
    SmearNow out;
    double strongest = 0;
    for (const Smear& one : smears) {
        const double strength = strengthAt(one, place);
        if (strength <= strongest) continue;
        strongest = strength;
        out = {one.length * strength, one.angle + one.turn, one.bulge / 100.0 * strength};
    }
    return out;
}

void smear(FloatPicture& picture, double length, double angle, double aspect) {
    const double radians = angle * std::numbers::pi / 180;
    for (std::size_t p = 0; p < picture.planes.size(); ++p) {
        FloatPlane& plane = picture.planes[p];
        const bool isChroma = picture.layout.isChroma(static_cast<int>(p));
        double dx = length * std::cos(radians) / aspect / (isChroma ? 1 << picture.layout.chromaShiftX : 1);
        double dy = length * std::sin(radians) / (isChroma ? 1 << picture.layout.chromaShiftY : 1);
        // Means of four, sixteen, sixty-four …: a line of equal weights in few passes.
        constexpr double finest = 0.4; // samples: steps that wide leave no ripple
        while (std::hypot(dx, dy) > finest) {
            dx /= taps;
            dy /= taps;
            plane = meanOfFour(plane, dx, dy);
        }
    }
}

} // namespace yarngap
