#include "core/inspection/held_frames.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace yarngap {

namespace {

constexpr std::int64_t holdReach = 12; // frames
constexpr double quarter = 0.25;       // steps of a cell's unit
constexpr double leastMotion = 1;      // steps, above a cell's stillest

/// 1 up to `good`, 0 from `bad` on, smooth in between; `good` may lie on either side.
double falling(double value, double good, double bad) {
    const double t = std::clamp((value - good) / (bad - good), 0.0, 1.0);
    return 1 - t * t * (3 - 2 * t);
}

/// What a frame changes of what moves around it.
struct Change {
    bool isTold = false; ///< false where nothing moves, and at cuts
    double whole = 1;    ///< its change over the usual one, in sum over cells that move
    double peak = 1;     ///< the largest change of a cell over the largest usual one
    double steps = 0;    ///< the largest change of a cell, in 8-bit steps
};

/// The scene around frame n: frames whose change is one within it.
std::pair<std::int64_t, std::int64_t> around(std::int64_t n, std::int64_t frames,
                                             std::span<const std::int64_t> cuts) {
    std::int64_t first = std::max<std::int64_t>(1, n - holdReach);
    std::int64_t last = std::min(frames - 1, n + holdReach);
    const auto next = std::upper_bound(cuts.begin(), cuts.end(), n);
    if (next != cuts.begin()) first = std::max(first, *std::prev(next) + 1);
    if (next != cuts.end()) last = std::min(last, *next - 1);
    return {first, last};
}

Change changeAt(std::span<const CellChanges> changes, std::int64_t n, std::span<const std::int64_t> cuts,
                const HoldOptions& options) {
    Change change;
    const auto [first, last] = around(n, static_cast<std::int64_t>(changes.size()), cuts);
    if (n < first || last - first < 2) return change;
    struct Cell {
        double least, usual, now;
    };
    std::vector<Cell> cells;
    std::vector<std::uint8_t> values;
    double most = 0;
    // What the picture leaves of itself where nothing holds or moves: noise, and what laying it on itself
    // costs.
    CellChanges now = changes[static_cast<std::size_t>(n)];
    std::nth_element(now.begin(), now.begin() + now.size() / 2, now.end());
    const double common = now[now.size() / 2] * quarter;
    for (std::size_t c = 0; c < CellChanges().size(); ++c) {
        if (!options.only.empty() && !options.only[static_cast<std::size_t>(n)].test(c)) continue;
        values.clear();
        for (std::int64_t i = first; i <= last; ++i)
            if (i != n) values.push_back(changes[static_cast<std::size_t>(i)][c]);
        // A frame that is the stillest around is not still for that: other holds tell, or the rest of it.
        const double least = std::min(common, *std::min_element(values.begin(), values.end()) * quarter);
        const auto upper = values.begin() + static_cast<std::ptrdiff_t>(values.size() * 4 / 5);
        std::nth_element(values.begin(), upper, values.end());
        const double usual = *upper * quarter;
        if (usual - least < leastMotion) continue;
        cells.push_back({least, usual, changes[static_cast<std::size_t>(n)][c] * quarter});
        most = std::max(most, usual - least);
    }
    if (cells.empty()) return change;
    double moved = 0;
    double usual = 0;
    double peak = 0;
    constexpr double strong = 0.4; // of the strongest
    for (const Cell& cell : cells) {
        if (options.strongestOnly && cell.usual - cell.least < strong * most) continue;
        // Weighed by how much they move, or those in which noise flickers, being many, would speak loudest.
        const double weight = cell.usual - cell.least;
        moved += weight * std::max(0.0, cell.now - cell.least);
        usual += weight * (cell.usual - cell.least);
        peak = std::max(peak, cell.now - cell.least);
        change.steps = std::max(change.steps, cell.now);
    }
    change.isTold = true;
    change.whole = moved / usual;
    change.peak = peak / most;
    return change;
}

/// What the change alone says for a hold, as a logarithm of odds. The scales are those that separate drawn
/// holds from drawn moves best; see bench_clean.
double evidenceOf(const Change& change) {
    if (!change.isTold) return -8;
    return std::clamp(14 * (0.3 - change.whole), -8.0, 4.0) + std::clamp(10 * (0.4 - change.peak), -6.0, 3.0);
}

double shareOf(double evidence) {
    return 1 / (1 + std::exp(-evidence));
}

/// How far the frames around frame n speak for a hold there: the share of those 2, 3 or 4 frames away, and
/// again as many, that hold, where those in between do not all do.
double rhythmAt(const std::vector<double>& evidence, std::int64_t n) {
    double best = 0;
    const auto share = [&](std::int64_t i) {
        const bool known = i > 0 && i < static_cast<std::int64_t>(evidence.size());
        return known ? shareOf(evidence[static_cast<std::size_t>(i)]) : 0.5;
    };
    for (const std::int64_t length : {2, 3, 4}) {
        double alike = 0;
        double others = 1;
        double count = 0;
        for (const std::int64_t times : {-3, -2, -1, 1, 2, 3}) {
            alike += share(n + times * length);
            // Each round has a frame that moves.
            double still = 1;
            for (std::int64_t i = 1; i < length; ++i)
                still = std::min(still, share(n + times * length + (times > 0 ? -i : i)));
            others -= still / 6;
            ++count;
        }
        best = std::max(best, alike / count * others);
    }
    return best;
}

} // namespace

std::vector<FoundFrame> heldFrames(std::span<const CellChanges> changes, std::span<const std::int64_t> cuts,
                                   const HoldOptions& options) {
    const auto frames = static_cast<std::int64_t>(changes.size());
    std::vector<Change> all;
    std::vector<double> evidence;
    all.reserve(changes.size());
    evidence.reserve(changes.size());
    for (std::int64_t n = 0; n < frames; ++n) {
        all.push_back(n == 0 ? Change{} : changeAt(changes, n, cuts, options));
        evidence.push_back(evidenceOf(all.back()));
        if (options.noise.empty()) continue;
        const double noise = 1.5 + 0.8 * options.noise[static_cast<std::size_t>(n)];
        evidence.back() -= 6 * (1 - falling(all.back().steps, noise, 4 * noise));
    }
    std::vector<FoundFrame> held;
    const auto isStill = [&](std::int64_t n) {
        return n >= 1 && n < frames && evidence[static_cast<std::size_t>(n)] > 0;
    };
    const auto usual = [&](std::int64_t i) {
        if (i < 1 || i >= frames || !all[static_cast<std::size_t>(i)].isTold) return 1.0;
        return falling(all[static_cast<std::size_t>(i)].whole, 0.5, 0.2);
    };
    for (std::int64_t n = 1; n < frames; ++n) {
        if (evidence[static_cast<std::size_t>(n)] <= -4) continue;
        std::int64_t first = n;
        std::int64_t last = n;
        while (isStill(first - 1))
            --first;
        while (isStill(last + 1))
            ++last;
        constexpr double longest = 4; // repeats of one picture
        const double brief = falling(static_cast<double>(last - first + 1), longest, 2 * longest);
        const double sudden = usual(first - 1) * usual(last + 1);
        // What is known beforehand. The camera's motion is never taken away quite.
        const double rare = options.strongestOnly ? -4 : -2;
        const double odds = evidence[static_cast<std::size_t>(n)] + rare + 6 * rhythmAt(evidence, n) -
                            4 * (1 - sudden) - 6 * (1 - brief);
        const double certainty = shareOf(odds);
        if (certainty >= CleanFindings::leastCertainty) held.push_back({n, certainty});
    }
    return held;
}

} // namespace yarngap
