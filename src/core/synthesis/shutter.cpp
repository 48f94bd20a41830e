#include "core/synthesis/shutter.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// The length that nine tenths of the vectors do not exceed, in pixels; of one vector in sixteen.
double commonLength(const VectorField& field) {
    std::vector<float> lengths;
    lengths.reserve(static_cast<std::size_t>(field.width / 4 + 1) *
                    static_cast<std::size_t>(field.height / 4 + 1));
    for (int y = 0; y < field.height; y += 4)
        for (int x = 0; x < field.width; x += 4)
            lengths.push_back(std::hypot(field.row(y)[2 * x], field.row(y)[2 * x + 1]));
    if (lengths.empty()) return 0;
    const auto at = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() * 9 / 10);
    std::nth_element(lengths.begin(), at, lengths.end());
    return *at;
}

} // namespace

std::vector<ShutterMoment> shutterMoments(const Vectors& motion, double place, double open,
                                          std::int64_t first, std::int64_t last) {
    constexpr double farthest = 1.5;
    constexpr double fewest = 3;
    constexpr double most = 32;
    const double moved = commonLength(motion.forward) * open;
    const auto count = static_cast<int>(std::clamp(std::ceil(moved / farthest), fewest, most));
    std::vector<ShutterMoment> moments;
    moments.reserve(static_cast<std::size_t>(count));
    for (int i = 0; i < count; ++i) {
        const double at = std::clamp(place + open * ((i + 0.5) / count - 0.5), static_cast<double>(first),
                                     static_cast<double>(last));
        constexpr double exact = 1e-6;
        ShutterMoment moment{static_cast<std::int64_t>(std::floor(at + exact)), 0, 1.0 / count};
        moment.phase = std::max(0.0, at - static_cast<double>(moment.frame));
        if (moment.phase < exact) moment.phase = 0;
        if (!moments.empty() && moments.back().frame == moment.frame && moments.back().phase == moment.phase)
            moments.back().share += moment.share;
        else
            moments.push_back(moment);
    }
    return moments;
}

} // namespace yarngap
