#include "core/inspection/drops.h"

#include "core/inspection/small_luma.h"
#include "core/motion/flow_estimator.h"
#include "core/progress.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap {

namespace {

constexpr double clearly = 1.2;
constexpr std::size_t mostSuspected = 40;
constexpr int workingWidth = 480;
constexpr float unevenness = 0.4F;
constexpr float moves = 0.5F; // pixels a frame, below which nothing is told

bool contains(std::span<const std::int64_t> frames, std::int64_t n) {
    return std::binary_search(frames.begin(), frames.end(), n);
}

/// The frame before `n` that is no repeat.
std::int64_t realBefore(std::span<const std::int64_t> repeats, std::int64_t n) {
    do
        --n;
    while (n > 0 && contains(repeats, n));
    return n;
}

/// How many times as far things move in `step` as in `ahead` and `after`, which agree: median over the pixels
/// that can be trusted in all three and do move; 0 when hardly any do.
double timesAsFar(const Vectors& ahead, const Vectors& step, const Vectors& after) {
    std::vector<float> ratios;
    const auto length = [](const Vectors& v, int x, int y) {
        const float* at = v.forward.row(y) + std::ptrdiff_t{2} * x;
        return v.forwardTrust.row(y)[x] >= 128 ? std::hypot(at[0], at[1]) : -1.0F;
    };
    for (int y = 0; y < step.forward.height; ++y)
        for (int x = 0; x < step.forward.width; ++x) {
            const float a = length(ahead, x, y);
            const float b = length(after, x, y);
            const float here = length(step, x, y);
            if (std::min({a, b, here}) < 0 || a + b < 2 * moves) continue;
            if (std::abs(a - b) > unevenness * std::max(a, b)) continue;
            ratios.push_back(2 * here / (a + b));
        }
    const auto whole =
        static_cast<std::size_t>(step.forward.width) * static_cast<std::size_t>(step.forward.height);
    if (ratios.size() < whole / 500) return 0;
    const auto middle = ratios.begin() + static_cast<std::ptrdiff_t>(ratios.size() / 2);
    std::nth_element(ratios.begin(), middle, ratios.end());
    return *middle;
}

} // namespace

std::vector<std::int64_t> suspectedDrops(std::span<const FrameMetrics> frames,
                                         std::span<const std::int64_t> repeats,
                                         std::span<const std::int64_t> cuts) {
    std::vector<std::pair<double, std::int64_t>> found;
    const auto total = static_cast<std::int64_t>(frames.size());
    const auto change = [&](std::int64_t n) { return frames[static_cast<std::size_t>(n)].meanChange; };
    for (std::int64_t n = 3; n + 1 < total; ++n) {
        const std::int64_t before = contains(repeats, n - 1) ? n - 2 : n - 1;
        if (before < 1 || contains(repeats, n) || contains(repeats, before)) continue;
        if (contains(cuts, n) || contains(cuts, n + 1) || contains(cuts, n - 1) || contains(cuts, before))
            continue;
        const double ratio = change(n) / std::max(0.05, std::max(change(before), change(n + 1)));
        if (ratio > clearly) found.emplace_back(ratio, n);
    }
    std::sort(found.rbegin(), found.rend());
    if (found.size() > mostSuspected) found.resize(mostSuspected);
    std::vector<std::int64_t> suspected;
    suspected.reserve(found.size());
    for (const auto& [ratio, n] : found)
        suspected.push_back(n);
    std::sort(suspected.begin(), suspected.end());
    return suspected;
}

std::vector<Drop> confirmDrops(std::span<const std::int64_t> suspected, std::span<const std::int64_t> repeats,
                               std::int64_t frames, const std::function<ImagePtr(std::int64_t)>& frame,
                               const std::stop_token& stop) {
    std::vector<Drop> drops;
    for (const std::int64_t n : suspected) {
        throwIfStopped(stop);
        const bool filled = contains(repeats, n - 1);
        const std::int64_t a = realBefore(repeats, n);
        const std::int64_t earlier = realBefore(repeats, a);
        if (earlier < 0 || n + 1 >= frames) continue;
        const Image first = smallLuma(*frame(earlier), workingWidth);
        const Image before = smallLuma(*frame(a), workingWidth);
        const Image here = smallLuma(*frame(n), workingWidth);
        const Image next = smallLuma(*frame(n + 1), workingWidth);
        const auto between = [&](const Image& from, const Image& to) {
            return estimateFlow(from, to, {.quality = FlowQuality::draft}, stop);
        };
        const double times = timesAsFar(between(first, before), between(before, here), between(here, next));
        if (times < 1.6 || times > 4.4) continue;
        const double off = std::abs(times - std::round(times));
        drops.push_back({n - 1, static_cast<int>(std::lround(times)) - 1, filled, 1 - off});
    }
    return drops;
}

} // namespace yarngap
