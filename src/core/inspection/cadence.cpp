#include "core/inspection/cadence.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>

namespace yarngap {

namespace {

/// Where a field is expected, as in FieldPlace: anywhere between two places.
struct ExpectedPlace {
    double from = 0, to = 0;
    bool isTold = true; ///< false: both fields around it are the same, or nothing is known
};

// Detail finer than two lines pulls a place towards the middle; no field of one of both moments goes all the
// way.
constexpr ExpectedPlace anywhere{0, 0, false};
constexpr ExpectedPlace atEarlier{-0.2, 0.3};
/// The same where nothing else speaks for film: what moves by whole pixels, as titles do, comes near it on
/// true fields.
constexpr ExpectedPlace justEarlier{-0.2, 0.08};
constexpr ExpectedPlace inBetween{0.32, 0.66};
constexpr ExpectedPlace atLater{0.7, 1.2};
/// Before the first or behind the second, where FieldPlace tells less.
constexpr ExpectedPlace beyond{0.35, 2.3};

/// What a frame looks like at one place of one cadence.
struct FieldsLook {
    ExpectedPlace bottom, top;
    int repeated = 0; ///< 1: the top field is that of the frame before; −1: the bottom field
    bool whole = false;
};

struct State {
    CadenceKind kind;
    bool topFirst;
    int phase;
    std::size_t next; // state of the next frame within the cycle
    FieldsLook look;
};

constexpr double breakCost = 8;  // in units of log likelihood, as all costs
constexpr double changeCost = 4; // besides, of another kind or order behind a break
constexpr double fieldsCost = 3; // film on fields is claimed only when the pictures insist
constexpr double outlier = 2.5;  // a field never speaks louder than this against what all others say

constexpr FieldsLook wholeLook{atLater, atLater, 0, true};
constexpr std::array<FieldsLook, 5> cycle32{{wholeLook,
                                             wholeLook,
                                             {anywhere, atEarlier, 1, false},
                                             {beyond, atEarlier, 0, false},
                                             {atLater, anywhere, -1, true}}};
constexpr std::array<FieldsLook, 5> cycle2332{
    {wholeLook, wholeLook, {anywhere, atEarlier, 1, false}, {atLater, anywhere, -1, true}, wholeLook}};

FieldsLook mirrored(const FieldsLook& look) {
    return {look.top, look.bottom, -look.repeated, look.whole};
}

std::vector<State> allStates() {
    using enum CadenceKind;
    std::vector<State> states;
    const auto single = [&](CadenceKind kind, bool topFirst, const FieldsLook& look) {
        states.push_back({kind, topFirst, 0, states.size(), topFirst ? look : mirrored(look)});
    };
    const auto cycle = [&](CadenceKind kind, bool topFirst, const std::array<FieldsLook, 5>& looks) {
        const std::size_t begin = states.size();
        for (std::size_t k = 0; k < looks.size(); ++k)
            states.push_back({kind, topFirst, static_cast<int>(k), begin + (k + 1) % looks.size(),
                              topFirst ? looks.at(k) : mirrored(looks.at(k))});
    };
    single(progressive, true, wholeLook);
    for (const bool topFirst : {true, false}) {
        single(interlaced, topFirst, {beyond, inBetween, 0, false});
        single(shifted22, topFirst, {beyond, justEarlier, 0, false});
        cycle(pulldown32, topFirst, cycle32);
        cycle(pulldown2332, topFirst, cycle2332);
    }
    return states;
}

/// A measure with its variance.
struct Seen {
    double at = 0;
    double variance = 0; ///< 0 where there is no measure
    double chance = 0;   ///< the part of it that is mere chance
    double coding = 0;   ///< share of coding and noise in what it was measured from, 0 to 1
};

/// What a frame shows of its fields.
struct SeenFrame {
    Seen bottom, top;
    Seen repeated; ///< share of the top field in the change of both
    /// How much it tells, 0 to 1.
    [[nodiscard]] double weight() const {
        const auto told = [](const Seen& s) {
            constexpr double hardly = 0.25;
            return s.variance > 0 ? 1 / (1 + s.variance / (hardly * hardly)) : 0;
        };
        return std::max(told(bottom), told(top));
    }
};

double squared(double v) {
    return v * v;
}

/// Share of what coding leaves in fields that move by this much: it pulls places towards the middle.
double codingShare(double energy, double noise) {
    constexpr double decent = 6; // mean square error of decent coding
    const double coding = decent + noise / 2;
    return coding / (std::max(0.0, energy) + coding);
}

SeenFrame lookAt(const FrameMetrics& m) {
    SeenFrame seen;
    constexpr double modelVariance = 0.12 * 0.12;
    const double energy = (m.topEnergy + m.bottomEnergy) / 2;
    const double least = 0.5 * m.energyDeviation + m.noiseEnergy / 2;
    if (energy <= std::max(least, 0.05)) return seen;
    const auto place = [&](const FieldPlace& p, double own) -> Seen {
        // Between two fields that are the same, no place can be told.
        if (!p.isKnown() || own < 0.15 * energy) return {};
        const double share = codingShare(own, m.noiseEnergy);
        return {p.at, modelVariance + squared(p.deviation) + squared(0.5 * share), squared(p.deviation),
                share};
    };
    seen.bottom = place(m.bottomPlace, m.topEnergy); // it lies between the top fields
    seen.top = place(m.topPlace, m.bottomEnergy);
    const double sum = std::max(0.0, m.topEnergy) + std::max(0.0, m.bottomEnergy);
    seen.repeated = {std::max(0.0, m.topEnergy) / sum,
                     squared(0.12) + squared(m.energyDeviation / energy) / 16 +
                         squared(0.5 * codingShare(energy, m.noiseEnergy)),
                     0, 0};
    return seen;
}

double costOf(double off, double variance) {
    return std::min(outlier, squared(off) / (2 * variance));
}

double misfit(const Seen& seen, const ExpectedPlace& expected) {
    if (seen.variance <= 0 || !expected.isTold) return 0;
    // Coding draws places towards the middle: so far may they come from both sides.
    const double drawn = 0.3 * seen.coding;
    const double from = expected.from > 0.5 ? expected.from - drawn : expected.from;
    const double to = expected.to < 0.5 ? expected.to + drawn : expected.to;
    return costOf(std::max({0.0, from - seen.at, seen.at - to}), seen.variance);
}

/// What speaks against fields that both move. Film has repeats of its own, and things stop: a field that
/// stays says less than one that must not move.
double costOfStaying(const Seen& repeated, double most = outlier / 2) {
    constexpr double usual = 0.2;
    if (repeated.variance <= 0) return 0;
    return std::min(most, costOf(std::max(0.0, std::abs(repeated.at - 0.5) - usual), repeated.variance));
}

/// What speaks against how far the bottom field lies behind the top one: fine detail and coding draw both
/// places away alike, so that this tells more than the places do.
double costOfDistance(const SeenFrame& seen, const FieldsLook& look) {
    if (seen.bottom.variance <= 0 || seen.top.variance <= 0) return 0;
    constexpr double next = 0.15;  // of one moment
    constexpr double fields = 0.1; // of two moments half a frame apart, which fast motion brings together
    constexpr double film = 0.3;   // of two film frames
    const double behind = seen.bottom.at - seen.top.at;
    const auto cost = [&](double off) {
        return costOf(std::max(0.0, off), squared(0.1) + seen.bottom.chance + seen.top.chance);
    };
    const auto least = [&](const ExpectedPlace& other) { return other.to == inBetween.to ? fields : film; };
    if (look.whole && look.repeated == 0) return cost(std::abs(behind) - next);
    if (look.bottom.to == beyond.to) return cost(least(look.top) - behind);
    if (look.top.to == beyond.to) return cost(least(look.bottom) + behind);
    return 0;
}

/// What speaks against a frame of one moment. Where both fields are drawn away alike their places tell
/// little.
double misfitWhole(const SeenFrame& seen, const FieldsLook& look) {
    constexpr double alike = 0.4;
    const double places = misfit(seen.bottom, look.bottom) + misfit(seen.top, look.top);
    const bool areBoth = seen.bottom.variance > 0 && seen.top.variance > 0;
    return (areBoth ? std::min(alike, places) : places) + costOfDistance(seen, look);
}

double misfit(const SeenFrame& seen, const FieldsLook& look) {
    const bool isNewFrame = look.whole && look.repeated == 0;
    const double sum = isNewFrame ? misfitWhole(seen, look)
                                  : misfit(seen.bottom, look.bottom) + misfit(seen.top, look.top) +
                                        costOfDistance(seen, look);
    if (look.repeated == 0) return sum + costOfStaying(seen.repeated);
    if (seen.repeated.variance <= 0) return sum;
    return sum + costOf(seen.repeated.at - (look.repeated > 0 ? 0 : 1), seen.repeated.variance);
}

/// Of the first frame after a break, which has a stranger before it: whether both its fields are of one
/// moment can be told, and no field stays.
double misfitAlone(const SeenFrame& seen, const FieldsLook& look) {
    const double staying = costOfStaying(seen.repeated, outlier); // no stranger has a field of it
    if (look.whole) return staying + misfitWhole(seen, wholeLook);
    constexpr double near = 0.12;
    const auto isWhole = [](const Seen& s) { return s.variance <= 0 || std::abs(s.at - 1) < near; };
    const bool told = seen.bottom.variance > 0 || seen.top.variance > 0;
    return staying + (told && isWhole(seen.bottom) && isWhole(seen.top) ? outlier / 2 : 0);
}

/// The cheapest way through all frames and the states that are allowed.
struct Path {
    double cost = 0;
    std::vector<std::uint8_t> states; ///< one for each frame; empty when they were not asked for
};

/// Kind and order of a state, as one number.
std::size_t kindOf(const State& s) {
    return static_cast<std::size_t>(s.kind) * 2 + (s.topFirst ? 1 : 0);
}
constexpr std::size_t kinds = 10;
constexpr double never = std::numeric_limits<double>::max() / 4;

/// Where the cheapest way up to a frame ends, of each kind and of all.
struct Cheapest {
    std::array<std::size_t, kinds> of{};
    std::size_t all = 0;
};

Cheapest cheapestEnds(const std::vector<State>& states, const std::vector<double>& cost) {
    Cheapest ends;
    std::array<double, kinds> least{};
    least.fill(never);
    for (std::size_t s = 0; s < states.size(); ++s) {
        if (cost[s] < cost[ends.all]) ends.all = s;
        double& l = least.at(kindOf(states[s]));
        if (cost[s] >= l && l < never) continue;
        l = cost[s];
        ends.of.at(kindOf(states[s])) = s;
    }
    return ends;
}

/// `isAllowed(n, state)`: whether frame n may be in that state.
template <typename Allowed>
Path cheapest(const std::vector<SeenFrame>& seen, const std::vector<State>& states, Allowed isAllowed,
              bool wanted) {
    const std::size_t count = states.size();
    std::vector<double> cost(count, never);
    for (std::size_t s = 0; s < count; ++s)
        if (isAllowed(0, states[s])) cost[s] = states[s].kind == CadenceKind::progressive ? 0.0 : fieldsCost;
    std::vector<std::uint8_t> from(wanted ? seen.size() * count : 0);
    std::vector<double> nextCost(count);
    for (std::size_t n = 1; n < seen.size(); ++n) { // the first frame has none before it
        const Cheapest ends = cheapestEnds(states, cost);
        const auto offer = [&](std::size_t before, std::size_t to, double offered) {
            if (offered >= nextCost[to]) return;
            nextCost[to] = offered;
            if (wanted) from[n * count + to] = static_cast<std::uint8_t>(before);
        };
        std::fill(nextCost.begin(), nextCost.end(), never);
        for (std::size_t s = 0; s < count; ++s) {
            const std::size_t to = states[s].next;
            if (isAllowed(n, states[to])) offer(s, to, cost[s] + misfit(seen[n], states[to].look));
        }
        for (std::size_t s = 0; s < count; ++s) {
            if (!isAllowed(n, states[s])) continue;
            const double alone = breakCost + misfitAlone(seen[n], states[s].look);
            const std::size_t same = ends.of.at(kindOf(states[s]));
            offer(same, s, cost[same] + alone);
            offer(ends.all, s, cost[ends.all] + alone + changeCost);
        }
        std::swap(cost, nextCost);
    }
    const auto best = std::min_element(cost.begin(), cost.end());
    Path path{*best, {}};
    if (!wanted) return path;
    path.states.resize(seen.size());
    path.states.back() = static_cast<std::uint8_t>(best - cost.begin());
    for (std::size_t n = seen.size() - 1; n > 0; --n)
        path.states[n - 1] = from[n * count + path.states[n]];
    return path;
}

/// By how much a kind must be likelier than what is next to it: the more it changes the more.
double neededFor(CadenceKind kind) {
    constexpr double untouched = 8;
    constexpr double remade = 12;
    return kind == CadenceKind::progressive ? untouched : remade;
}

/// Whether the pictures of `run` tell its cadence: whether the cheapest way is much cheaper than any that
/// takes these frames for something else. Of the kind that all say, less is asked for.
bool isTold(const CadenceRun& run, bool isMain, const std::vector<SeenFrame>& seen,
            const std::vector<State>& states, double pathCost) {
    constexpr double known = 3;
    const auto isOther = [&](std::size_t n, const State& s) {
        const auto at = static_cast<std::int64_t>(n);
        return at < run.first || at > run.last || s.kind != run.kind || s.topFirst != run.topFirst;
    };
    const double needed = isMain ? std::min(known, neededFor(run.kind)) : neededFor(run.kind);
    return cheapest(seen, states, isOther, false).cost - pathCost >= needed;
}

/// The same of a kind in all frames.
bool isTold(std::size_t kind, const std::vector<SeenFrame>& seen, const std::vector<State>& states,
            double pathCost) {
    const auto isOther = [&](std::size_t, const State& s) { return kindOf(s) != kind; };
    return cheapest(seen, states, isOther, false).cost - pathCost >=
           neededFor(static_cast<CadenceKind>(kind / 2));
}

/// The kind that most of the evidence speaks for.
std::size_t mainKind(const std::vector<SeenFrame>& seen, const std::vector<State>& states, const Path& path) {
    std::array<double, kinds> weights{};
    for (std::size_t n = 0; n < seen.size(); ++n)
        weights.at(kindOf(states[path.states[n]])) += seen[n].weight();
    return static_cast<std::size_t>(std::max_element(weights.begin(), weights.end()) - weights.begin());
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
    std::vector<SeenFrame> seen(1); // the first frame has none before it
    for (std::size_t n = 1; n < frames.size(); ++n)
        seen.push_back(lookAt(frames[n]));
    const Path path = cheapest(
        seen, states, [](std::size_t, const State&) { return true; }, true);
    const std::size_t most = mainKind(seen, states, path);
    if (!isTold(most, seen, states, path.cost))
        return {{0, static_cast<std::int64_t>(frames.size()) - 1, CadenceKind::progressive, true, 0, 0}};

    std::vector<CadenceRun> runs;
    for (std::size_t n = 0; n < frames.size(); ++n) {
        const State& state = states[path.states[n]];
        const bool goesOn = n > 0 && states[path.states[n - 1]].next == path.states[n];
        if (!goesOn) {
            const auto at = static_cast<std::int64_t>(n);
            runs.push_back({at, at, state.kind, state.topFirst, state.phase, 0});
        }
        runs.back().last = static_cast<std::int64_t>(n);
        runs.back().evidence += seen[n].weight();
    }
    for (CadenceRun& run : runs) {
        const bool isMain = kindOf({run.kind, run.topFirst, 0, 0, {}}) == most;
        if (runs.size() > 1 && !isTold(run, isMain, seen, states, path.cost)) run.evidence = 0;
    }
    return runs;
}

} // namespace yarngap
