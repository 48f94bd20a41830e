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
constexpr double steady = 0.35;
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

/// How many times as far things move in `step` as in `ahead` and `after`, which agree, and the same way:
/// median over the pixels that can be trusted in all three and do move; 0 when hardly any do.
double timesAsFar(const Vectors& ahead, const Vectors& step, const Vectors& after) {
    std::vector<float> ratios;
    struct Arrow {
        bool known;
        float x, y;
    };
    const auto arrow = [](const Vectors& v, int x, int y) -> Arrow {
        const float* at = v.forward.row(y) + std::ptrdiff_t{2} * x;
        return {v.forwardTrust.row(y)[x] >= 128, at[0], at[1]};
    };
    std::size_t moving = 0;
    for (int y = 0; y < step.forward.height; ++y)
        for (int x = 0; x < step.forward.width; ++x) {
            const Arrow a = arrow(ahead, x, y);
            const Arrow b = arrow(after, x, y);
            const Arrow here = arrow(step, x, y);
            if (!a.known || !b.known || !here.known) continue;
            const float mx = (a.x + b.x) / 2;
            const float my = (a.y + b.y) / 2;
            const float length = std::max(std::hypot(a.x, a.y), std::hypot(b.x, b.y));
            if (length < moves) continue;
            ++moving;
            if (std::hypot(a.x - b.x, a.y - b.y) > unevenness * length) continue;
            const float ratio = (here.x * mx + here.y * my) / (mx * mx + my * my);
            if (std::hypot(here.x - ratio * mx, here.y - ratio * my) > unevenness * length) continue;
            ratios.push_back(ratio);
        }
    const auto whole =
        static_cast<std::size_t>(step.forward.width) * static_cast<std::size_t>(step.forward.height);
    // Where most of what moves does so unevenly, a long step is nothing strange.
    if (ratios.empty() || ratios.size() < whole / 500 || ratios.size() < moving / 2) return 0;
    const auto middle = ratios.begin() + static_cast<std::ptrdiff_t>(ratios.size() / 2);
    std::nth_element(ratios.begin(), middle, ratios.end());
    return *middle;
}

/// How unevenly the picture changes from frame to frame around frame n, which does not count: the standard
/// deviation over the mean.
double unevennessAround(std::span<const FrameMetrics> frames, std::span<const std::int64_t> repeats,
                        std::int64_t n) {
    constexpr std::int64_t reach = 6;
    double sum = 0;
    double squares = 0;
    double count = 0;
    for (std::int64_t i = std::max<std::int64_t>(1, n - reach);
         i <= std::min(static_cast<std::int64_t>(frames.size()) - 1, n + reach); ++i) {
        if (i == n || contains(repeats, i)) continue;
        const double change = frames[static_cast<std::size_t>(i)].meanChange;
        sum += change;
        squares += change * change;
        ++count;
    }
    if (count < 3 || sum <= 0) return 0;
    const double mean = sum / count;
    return std::sqrt(std::max(0.0, squares / count - mean * mean)) / mean;
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
        if (ratio > clearly && unevennessAround(frames, repeats, n) < steady) found.emplace_back(ratio, n);
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
