#include "core/synthesis/edge_scale.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

double scaleThatHides(const MidMotion& mid, double phase) {
    const auto t = static_cast<float>(phase);
    constexpr float pixel = 0.5F; // in cells
    const float right = static_cast<float>(mid.width - 1) + pixel;
    const float bottom = static_cast<float>(mid.height - 1) + pixel;
    const auto outside = [&](float x, float y) {
        return x < -pixel || y < -pixel || x > right || y > bottom;
    };
    const float halfWidth = static_cast<float>(mid.width) / 2;
    const float halfHeight = static_cast<float>(mid.height) / 2;
    // How far from the middle, 0 to 1, the innermost bare cell lies with its inner side.
    const float innermost = tbb::parallel_reduce(
        tbb::blocked_range<int>(0, mid.height), 1.0F,
        [&](const tbb::blocked_range<int>& rows, float least) {
            for (int y = rows.begin(); y < rows.end(); ++y) {
                const MidCell* cells = mid.row(y);
                const auto py = static_cast<float>(y);
                const float down = (std::abs(py + 0.5F - halfHeight) - 0.5F) / halfHeight;
                for (int x = 0; x < mid.width; ++x) {
                    const auto px = static_cast<float>(x);
                    const float vx = cells[x].vx;
                    const float vy = cells[x].vy;
                    if (!outside(px - t * vx, py - t * vy) || !outside(px + (1 - t) * vx, py + (1 - t) * vy))
                        continue;
                    const float across = (std::abs(px + 0.5F - halfWidth) - 0.5F) / halfWidth;
                    const float place = std::max(across, down);
                    if (place >= 1 / static_cast<float>(largestEdgeScale)) least = std::min(least, place);
                }
            }
            return least;
        },
        [](float a, float b) { return std::min(a, b); });
    return 1.0 / innermost;
}

} // namespace yarngap
