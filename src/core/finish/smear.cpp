#include "core/finish/smear.h"

#include "core/choice_names.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

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

/// The mean of the plane shifted by half of (dx, dy) either way, read by lines between samples.
FloatPlane meanOfShifted(const FloatPlane& in, double dx, double dy) {
    FloatPlane out(in.width, in.height);
    const auto split = [](double shift) {
        const double whole = std::floor(shift);
        return std::pair{static_cast<int>(whole), static_cast<float>(shift - whole)};
    };
    tbb::parallel_for(0, in.height, [&](int y) {
        float* row = out.row(y);
        std::fill_n(row, in.width, 0.0F);
        for (const double sign : {-0.5, 0.5}) {
            const auto [sx, fx] = split(sign * dx);
            const auto [sy, fy] = split(sign * dy);
            const float* upper = in.row(mirrored(y + sy, in.height));
            const float* lower = in.row(mirrored(y + sy + 1, in.height));
            const auto read = [&, sx = sx, fx = fx, fy = fy](int left, int right) {
                return (1 - fy) * ((1 - fx) * upper[left] + fx * upper[right]) +
                       fy * ((1 - fx) * lower[left] + fx * lower[right]);
            };
            const int begin = std::clamp(-sx, 0, in.width);
            const int end = std::clamp(in.width - 1 - sx, begin, in.width);
            for (int x = begin; x < end; ++x)
                row[x] += 0.5F * read(x + sx, x + sx + 1);
            const auto edge = [&, sx = sx](int from, int to) {
                for (int x = from; x < to; ++x)
                    row[x] += 0.5F * read(mirrored(x + sx, in.width), mirrored(x + sx + 1, in.width));
            };
            edge(0, begin);
            edge(end, in.width);
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
        // Means of two, four, eight …: a line of equal weights in as many passes as it has doublings. Halves,
        // so that the widest lies within the length.
        constexpr double finest = 0.7; // samples
        while (std::hypot(dx, dy) > finest) {
            dx /= 2;
            dy /= 2;
            plane = meanOfShifted(plane, dx, dy);
        }
    }
}

} // namespace yarngap
