#include "core/inspection/cuts.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

constexpr std::int64_t reach = 6; // frames on either side that tell what is usual

double tileDistance(const FrameMetrics& a, const FrameMetrics& b) {
    double sum = 0;
    for (std::size_t i = 0; i < a.tiles.size(); ++i)
        sum += std::abs(static_cast<double>(a.tiles[i]) - b.tiles[i]);
    return sum / static_cast<double>(a.tiles.size());
}

double histogramDistance(const FrameMetrics& a, const FrameMetrics& b) {
    double sum = 0;
    for (std::size_t i = 0; i < a.histogram.size(); ++i)
        sum += std::abs(static_cast<double>(a.histogram[i]) - b.histogram[i]);
    return sum / 2;
}

double usualChange(std::span<const FrameMetrics> frames, std::int64_t n) {
    std::vector<double> around;
    const auto total = static_cast<std::int64_t>(frames.size());
    for (std::int64_t i = std::max<std::int64_t>(1, n - reach); i <= std::min(total - 1, n + reach); ++i)
        if (i != n) around.push_back(frames[static_cast<std::size_t>(i)].meanChange);
    if (around.empty()) return 0;
    const auto middle = around.begin() + static_cast<std::ptrdiff_t>(around.size() / 2);
    std::nth_element(around.begin(), middle, around.end());
    return *middle;
}

} // namespace

std::vector<std::int64_t> findCuts(std::span<const FrameMetrics> frames) {
    std::vector<std::int64_t> cuts;
    for (std::size_t n = 1; n < frames.size(); ++n) {
        const FrameMetrics& before = frames[n - 1];
        const FrameMetrics& now = frames[n];
        const double tiles = tileDistance(before, now);
        if (tiles < 4 || (tiles < 7 && histogramDistance(before, now) < 0.3)) continue;
        if (now.meanChange < 3.5 * (usualChange(frames, static_cast<std::int64_t>(n)) + 0.5)) continue;
        // A flash comes and goes: one of the next frames looks like the one before it.
        const std::size_t last = std::min(frames.size() - 1, n + 3);
        bool returns = false;
        for (std::size_t i = n + 1; i <= last; ++i)
            returns |= tileDistance(before, frames[i]) < 0.35 * tiles;
        // … and its end looks like a cut to the frames before the flash.
        for (std::size_t i = n >= 4 ? n - 4 : 0; i + 1 < n; ++i)
            returns |= tileDistance(frames[i], now) < 0.35 * tiles;
        if (!returns) cuts.push_back(static_cast<std::int64_t>(n));
    }
    return cuts;
}

} // namespace yarngap
