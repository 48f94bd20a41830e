#include "core/inspection/cadence.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace yarngap {

namespace {

/// What a frame looks like at one place of one cadence.
struct Look {
    double own, topOnBefore, bottomOnBefore; // combing, 0 for the least of the three weaves, 1 for the most
    double repeated; // 1: the top field is that of the frame before; −1: the bottom field
};

struct State {
    CadenceKind kind;
    bool topFirst;
    int phase;
    int next; // state of the next frame within the cycle
    Look look;
};

constexpr double breakCost = 4.0;
constexpr double strangerCost = 0.2; // about what a frame in its place misses by otherwise
constexpr std::array<Look, 5> cycle32{
    {{0, 1, 1, 0}, {0, 1, 1, 0}, {1, 0, 1, 1}, {0.8, 0, 1, 0}, {0, 0, 1, -1}}};
constexpr std::array<Look, 5> cycle2332{
    {{0, 1, 1, 0}, {0, 1, 1, 0}, {1, 0, 1, 1}, {0, 0, 1, -1}, {0, 1, 1, 0}}};

Look mirrored(const Look& look) {
    return {look.own, look.bottomOnBefore, look.topOnBefore, -look.repeated};
}

std::vector<State> allStates() {
    using enum CadenceKind;
    std::vector<State> states;
    const auto single = [&](CadenceKind kind, bool topFirst, const Look& look) {
        states.push_back({kind, topFirst, 0, static_cast<int>(states.size()), look});
    };
    const auto cycle = [&](CadenceKind kind, bool topFirst, const std::array<Look, 5>& looks) {
        const int begin = static_cast<int>(states.size());
        for (int k = 0; k < 5; ++k) {
            const Look& look = looks.at(static_cast<std::size_t>(k));
            states.push_back({kind, topFirst, k, begin + (k + 1) % 5, topFirst ? look : mirrored(look)});
        }
    };
    single(progressive, true, {0, 1, 1, 0});
    for (const bool topFirst : {true, false}) {
        const Look fields{0.1, 0.1, 1, 0};
        const Look shifted{0.7, 0, 1, 0};
        single(interlaced, topFirst, topFirst ? fields : mirrored(fields));
        single(shifted22, topFirst, topFirst ? shifted : mirrored(shifted));
        cycle(pulldown32, topFirst, cycle32);
        cycle(pulldown2332, topFirst, cycle2332);
    }
    return states;
}

/// A frame as a Look, and how much it tells, 0 to 1.
struct Seen {
    Look look{};
    double combed = 0; // own combing, without trust in the frame before
    double weight = 0;
};

/// How combed frame n is beside the frames within two of it, 0 to 1: a frame after an edit may comb less than
/// the weaves across the edit do, and is combed all the same.
double combedBesideOthers(std::span<const FrameMetrics> frames, std::size_t n) {
    const std::size_t first = std::max<std::size_t>(n, 3) - 2; // frame 0 has no weaves
    const std::size_t last = std::min(frames.size() - 1, n + 2);
    double clean = std::numeric_limits<double>::max();
    std::vector<double> most;
    for (std::size_t i = first; i <= last; ++i) {
        const FrameMetrics& m = frames[i];
        clean = std::min({clean, m.combOwn, m.combTopOnBefore, m.combBottomOnBefore});
        most.push_back(std::max({m.combOwn, m.combTopOnBefore, m.combBottomOnBefore}));
    }
    if (most.empty()) return 0;
    const auto middle = most.begin() + static_cast<std::ptrdiff_t>(most.size() / 2);
    std::nth_element(most.begin(), middle, most.end());
    const double share = (frames[n].combOwn - clean) / std::max(0.05, *middle - clean);
    return std::clamp((share - 0.35) / 0.35, 0.0, 1.0);
}

Seen lookAt(std::span<const FrameMetrics> frames, std::size_t n) {
    const FrameMetrics& m = frames[n];
    const double least = std::min({m.combOwn, m.combTopOnBefore, m.combBottomOnBefore});
    const double most = std::max({m.combOwn, m.combTopOnBefore, m.combBottomOnBefore});
    const double spread = most - least;
    Seen seen;
    if (spread <= 0 || m.movingShare <= 0) return seen;
    seen.look = {(m.combOwn - least) / spread, (m.combTopOnBefore - least) / spread,
                 (m.combBottomOnBefore - least) / spread, 0};
    seen.combed = std::max(seen.look.own, combedBesideOthers(frames, n));
    const double change = m.topChange + m.bottomChange;
    // A coder's noise keeps even a repeated field from standing still; a third of the way tells it all.
    if (change > 0) seen.look.repeated = std::clamp(3 * (m.bottomChange - m.topChange) / change, -1.0, 1.0);
    seen.weight = std::clamp((spread / (most + 0.05) - 0.08) / 0.25, 0.0, 1.0);
    return seen;
}

double misfit(const Look& seen, const Look& expected) {
    const auto square = [](double v) { return v * v; };
    return square(seen.own - expected.own) + square(seen.topOnBefore - expected.topOnBefore) +
           square(seen.bottomOnBefore - expected.bottomOnBefore) +
           2 * square(seen.repeated - expected.repeated);
}

} // namespace

std::string_view name(CadenceKind kind) {
    switch (kind) {
    case CadenceKind::progressive:
        return "progressive";
    case CadenceKind::interlaced:
        return "interlaced";
    case CadenceKind::pulldown32:
        return "3:2 pulldown";
    case CadenceKind::pulldown2332:
        return "2:3:3:2 pulldown";
    case CadenceKind::shifted22:
        return "2:2 with fields shifted";
    }
    return "";
}

std::vector<CadenceRun> trackCadence(std::span<const FrameMetrics> frames) {
    if (frames.empty()) return {};
    const std::vector<State> states = allStates();
    const std::size_t count = states.size();
    std::vector<double> cost(count);
    // Film on video is claimed only when the pictures insist.
    for (std::size_t s = 0; s < count; ++s)
        cost[s] = states[s].kind == CadenceKind::progressive ? 0.0 : 2.0;
    std::vector<std::uint8_t> from(frames.size() * count);
    std::vector<double> weights(frames.size());
    std::vector<double> nextCost(count);
    for (std::size_t n = 0; n < frames.size(); ++n) {
        const Seen seen = n == 0 ? Seen{} : lookAt(frames, n); // the first frame has none before it
        weights[n] = seen.weight;
        if (n == 0) continue;
        // Within its cycle a frame must look its part. The first frame after a break has a stranger before
        // it, which tells nothing.
        const auto best = std::min_element(cost.begin(), cost.end());
        for (std::size_t s = 0; s < count; ++s) {
            const double own = seen.combed - states[s].look.own;
            nextCost[s] = *best + breakCost + seen.weight * (strangerCost + own * own);
        }
        std::uint8_t* back = from.data() + n * count;
        std::fill_n(back, count, static_cast<std::uint8_t>(best - cost.begin()));
        for (std::size_t s = 0; s < count; ++s) {
            const auto to = static_cast<std::size_t>(states[s].next);
            const double onwards =
                cost[s] + (seen.weight > 0 ? seen.weight * misfit(seen.look, states[to].look) : 0);
            if (onwards <= nextCost[to]) {
                nextCost[to] = onwards;
                back[to] = static_cast<std::uint8_t>(s);
            }
        }
        std::swap(cost, nextCost);
    }

    std::vector<std::uint8_t> path(frames.size());
    path.back() = static_cast<std::uint8_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
    for (std::size_t n = frames.size() - 1; n > 0; --n)
        path[n - 1] = from[n * count + path[n]];

    std::vector<CadenceRun> runs;
    for (std::size_t n = 0; n < frames.size(); ++n) {
        const State& state = states[path[n]];
        const bool goesOn = n > 0 && states[path[n - 1]].next == path[n];
        if (!goesOn) {
            const auto at = static_cast<std::int64_t>(n);
            runs.push_back({at, at, state.kind, state.topFirst, state.phase, 0});
        }
        runs.back().last = static_cast<std::int64_t>(n);
        runs.back().evidence += weights[n];
    }
    return runs;
}

} // namespace yarngap
