#include "core/inspection/held_parts.h"

#include <algorithm>
#include <array>

namespace yarngap {

namespace {

constexpr double stands = 2.5;
constexpr double leastSteps = 2.0;
constexpr double onePlace = 0.85;
constexpr double leastShare = 0.4;
constexpr int fewestCycles = 4;

/// Cells that jump at frame n of a cycle of `length`.
int jumpsAt(std::span<const FrameMetrics> frames, std::size_t n, std::size_t length) {
    const std::size_t first = n >= length ? n - length + 1 : 1;
    const std::size_t last = std::min(frames.size() - 1, n + length - 1);
    int jumps = 0;
    for (std::size_t cell = 0; cell < frames[n].cells.size(); ++cell) {
        double others = 0;
        for (std::size_t i = first; i <= last; ++i)
            if (i != n) others = std::max(others, static_cast<double>(frames[i].cells[cell]));
        // Cells count in quarter steps.
        jumps += frames[n].cells[cell] > stands * others + 4 * leastSteps ? 1 : 0;
    }
    return jumps;
}

} // namespace

HeldPart findHeldPart(std::span<const FrameMetrics> frames) {
    for (const std::size_t length : {std::size_t{2}, std::size_t{3}}) {
        if (frames.size() < length * (fewestCycles + 1)) continue;
        std::array<double, 3> jumps{};
        std::array<int, 3> cycles{};
        for (std::size_t n = 1; n < frames.size(); ++n) {
            const int here = jumpsAt(frames, n, length);
            jumps.at(n % length) += here;
            cycles.at(n % length) += here > 0 ? 1 : 0;
        }
        const auto best =
            static_cast<std::size_t>(std::max_element(jumps.begin(), jumps.end()) - jumps.begin());
        const double all = jumps[0] + jumps[1] + jumps[2];
        const double possible = static_cast<double>(frames.size()) / static_cast<double>(length);
        if (jumps.at(best) >= onePlace * all && cycles.at(best) >= fewestCycles &&
            cycles.at(best) >= leastShare * possible)
            return {static_cast<int>(length), static_cast<std::int64_t>(best)};
    }
    return {};
}

} // namespace yarngap
