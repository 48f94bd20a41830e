#include "core/inspection/repeats.h"

#include <algorithm>
#include <array>

namespace yarngap {

namespace {

constexpr std::int64_t usualReach = 12;
constexpr double firmShare = 0.7;
constexpr int fewestHolds = 4;

/// Upper quartile of the peak change around frame n: what moving looks like there.
double movingChange(std::span<const FrameMetrics> frames, std::int64_t n) {
    std::vector<double> around;
    const auto total = static_cast<std::int64_t>(frames.size());
    for (std::int64_t i = std::max<std::int64_t>(1, n - usualReach); i <= std::min(total - 1, n + usualReach);
         ++i)
        around.push_back(frames[static_cast<std::size_t>(i)].peakChange);
    const auto quartile = around.begin() + static_cast<std::ptrdiff_t>(around.size() * 3 / 4);
    std::nth_element(around.begin(), quartile, around.end());
    return *quartile;
}

int rhythmOf(const std::vector<std::int64_t>& repeats, std::int64_t total) {
    std::array<int, 5> holds{}; // how often something is held for so many frames
    int held = 1;
    int all = 0;
    std::size_t next = 0;
    for (std::int64_t n = 1; n <= total; ++n) {
        const bool repeated = next < repeats.size() && repeats[next] == n;
        if (repeated) {
            ++next;
            ++held;
            continue;
        }
        // What is held at either end may be cut off.
        if (n < total && n > held) {
            ++all;
            if (held < static_cast<int>(holds.size())) ++holds.at(static_cast<std::size_t>(held));
        }
        held = 1;
    }
    if (all < fewestHolds) return 1;
    for (int length = 2; length < static_cast<int>(holds.size()); ++length)
        if (holds.at(static_cast<std::size_t>(length)) >= firmShare * all) return length;
    return 1;
}

} // namespace

Repeats findRepeats(std::span<const FrameMetrics> frames) {
    Repeats repeats;
    const auto total = static_cast<std::int64_t>(frames.size());
    for (std::int64_t n = 1; n < total; ++n) {
        const FrameMetrics& m = frames[static_cast<std::size_t>(n)];
        if (m.peakChange > 1.8 * m.floor + 0.5) continue;
        if (movingChange(frames, n) >= 5 * std::max(m.peakChange, 0.1)) repeats.frames.push_back(n);
    }
    repeats.heldFor = rhythmOf(repeats.frames, total);
    return repeats;
}

} // namespace yarngap
