#include "core/synthesis/doubt.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// A plane of luma read between its samples, and whether a place lies inside.
struct Luma {
    const std::vector<float>& plane;
    int width;
    int height;

    [[nodiscard]] bool has(float x, float y) const {
        return x >= 0 && y >= 0 && x <= static_cast<float>(width - 1) && y <= static_cast<float>(height - 1);
    }
    [[nodiscard]] float at(float x, float y) const {
        const int ix = std::min(static_cast<int>(x), width - 2);
        const int iy = std::min(static_cast<int>(y), height - 2);
        const float fx = x - static_cast<float>(ix);
        const float fy = y - static_cast<float>(iy);
        const float* p = plane.data() + static_cast<std::size_t>(iy) * static_cast<std::size_t>(width) + ix;
        return (1 - fy) * ((1 - fx) * p[0] + fx * p[1]) + fy * ((1 - fx) * p[width] + fx * p[width + 1]);
    }
};

} // namespace

double doubtOf(const MidMotion& mid, const std::vector<float>& lumaA, const std::vector<float>& lumaB,
               double phase, std::optional<double> remakeError) {
    if (mid.width < 2 || mid.height < 2) return 1;
    struct Sums {
        double squares = 0;
        double seen = 0;
        double motion = 0;
        double cells = 0;
    };
    const auto t = static_cast<float>(phase);
    // Of large pictures a quarter of the cells tells as much.
    constexpr int large = 480; // cells
    const int every = mid.width < large ? 1 : 2;
    std::vector<Sums> sums(static_cast<std::size_t>((mid.height + every - 1) /
                                                    every)); // by line, so that the result is always the same
    const Luma a{lumaA, mid.width, mid.height};
    const Luma b{lumaB, mid.width, mid.height};
    tbb::parallel_for(0, static_cast<int>(sums.size()), [&](int line) {
        Sums& sum = sums[static_cast<std::size_t>(line)];
        const int y = line * every;
        const MidCell* cells = mid.row(y);
        for (int x = line % every; x < mid.width; x += every) {
            sum.cells += 1;
            const float vx = cells[x].vx;
            const float vy = cells[x].vy;
            sum.motion += std::sqrt(vx * vx + vy * vy);
            const float ax = static_cast<float>(x) - t * vx;
            const float ay = static_cast<float>(y) - t * vy;
            const float bx = static_cast<float>(x) + (1 - t) * vx;
            const float by = static_cast<float>(y) + (1 - t) * vy;
            if (!a.has(ax, ay) || !b.has(bx, by)) continue;
            const float d = 255.0F * (a.at(ax, ay) - b.at(bx, by));
            sum.squares += static_cast<double>(d) * d;
            sum.seen += 1;
        }
    });
    Sums all;
    for (const Sums& sum : sums) {
        all.squares += sum.squares;
        all.seen += sum.seen;
        all.motion += sum.motion;
        all.cells += sum.cells;
    }
    if (all.seen == 0) return 1;
    const double motion = all.motion / all.cells * 960.0 / mid.width;
    const double seen = all.squares / all.seen * (1 + motion);
    const double y = remakeError ? std::pow(seen, 0.4) * std::pow(1 + *remakeError, 0.6) : seen;
    return 1 - std::exp(-std::sqrt(4 * phase * (1 - phase) * y) / 40);
}

} // namespace yarngap
