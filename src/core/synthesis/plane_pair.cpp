#include "core/synthesis/plane_pair.h"

#include "core/widest.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

namespace yarngap {

namespace {

using Four = SplinePlane::Four;
using Eight = float __attribute__((vector_size(32)));
using Places = PlanePair::Places;
using Parts = std::array<Eight, 4>; ///< four parts of each of eight values

// As in patch_search.cpp: written out in place, so that it is compiled for each processor with what calls it.
#define YARNGAP_IN_PLACE [[gnu::always_inline]] inline

YARNGAP_IN_PLACE void join(const float* low, const float* high, Eight& both) {
    Four one;
    Four other;
    std::memcpy(&one, low, sizeof one);
    std::memcpy(&other, high, sizeof other);
    both = __builtin_shufflevector(one, other, 0, 1, 2, 3, 4, 5, 6, 7);
}

/// Four parts of what a has there, then four of b.
YARNGAP_IN_PLACE void read(const SplinePlane& a, const SplinePlane& b, const Places& at, Eight& parts) {
    constexpr unsigned fine = SplinePlane::fine;
    const float* inA = a.samplesAround(at.ax / fine, at.ay / fine);
    const float* inB = b.samplesAround(at.bx / fine, at.by / fine);
    const std::size_t down = a.stride();
    Eight across, weights, line;
    join(a.weightsAt(at.ax % fine), a.weightsAt(at.bx % fine), across);
    join(a.weightsAt(at.ay % fine), a.weightsAt(at.by % fine), weights);
    join(inA, inB, line);
    parts = __builtin_shufflevector(weights, weights, 0, 0, 0, 0, 4, 4, 4, 4) * line;
    join(inA + down, inB + down, line);
    parts += __builtin_shufflevector(weights, weights, 1, 1, 1, 1, 5, 5, 5, 5) * line;
    join(inA + 2 * down, inB + 2 * down, line);
    parts += __builtin_shufflevector(weights, weights, 2, 2, 2, 2, 6, 6, 6, 6) * line;
    join(inA + 3 * down, inB + 3 * down, line);
    parts += __builtin_shufflevector(weights, weights, 3, 3, 3, 3, 7, 7, 7, 7) * line;
    parts *= across;
}

/// Two places one beside the other: their parts in a, and in b.
YARNGAP_IN_PLACE void readTwo(const SplinePlane& a, const SplinePlane& b, const Places* at, Eight& ofA,
                              Eight& ofB) {
    Eight one, other;
    read(a, b, at[0], one);
    read(a, b, at[1], other);
    ofA = __builtin_shufflevector(one, other, 0, 1, 2, 3, 8, 9, 10, 11);
    ofB = __builtin_shufflevector(one, other, 4, 5, 6, 7, 12, 13, 14, 15);
}

/// Added as SplinePlane::sum() adds.
YARNGAP_IN_PLACE void sum(const Parts& parts, float* values) {
#define YARNGAP_EVEN(v, w) __builtin_shufflevector(v, w, 0, 2, 4, 6, 8, 10, 12, 14)
#define YARNGAP_ODD(v, w) __builtin_shufflevector(v, w, 1, 3, 5, 7, 9, 11, 13, 15)
    const Eight first = YARNGAP_EVEN(parts[0], parts[1]) + YARNGAP_ODD(parts[0], parts[1]);
    const Eight second = YARNGAP_EVEN(parts[2], parts[3]) + YARNGAP_ODD(parts[2], parts[3]);
    const Eight all = YARNGAP_EVEN(first, second) + YARNGAP_ODD(first, second);
#undef YARNGAP_EVEN
#undef YARNGAP_ODD
    std::memcpy(values, &all, sizeof all);
}

/// a + share (b − a) of two places, of which `shares` has that of one in its first half, of the other in its
/// second.
YARNGAP_IN_PLACE void mixTwo(const SplinePlane& a, const SplinePlane& b, const Places* at,
                             const Eight& shares, Eight& mixed) {
    Eight ofA, ofB;
    readTwo(a, b, at, ofA, ofB);
    mixed = ofA + shares * (ofB - ofA);
}

/// n is a multiple of eight, as below.
YARNGAP_WIDEST void mixedValues(const SplinePlane& a, const SplinePlane& b, const Places* at,
                                const float* shareB, std::size_t n, float* values) {
    for (std::size_t i = 0; i < n; i += 8) {
        Eight s;
        std::memcpy(&s, shareB + i, sizeof s);
        Parts parts;
        mixTwo(a, b, at + i, __builtin_shufflevector(s, s, 0, 0, 0, 0, 1, 1, 1, 1), parts[0]);
        mixTwo(a, b, at + i + 2, __builtin_shufflevector(s, s, 2, 2, 2, 2, 3, 3, 3, 3), parts[1]);
        mixTwo(a, b, at + i + 4, __builtin_shufflevector(s, s, 4, 4, 4, 4, 5, 5, 5, 5), parts[2]);
        mixTwo(a, b, at + i + 6, __builtin_shufflevector(s, s, 6, 6, 6, 6, 7, 7, 7, 7), parts[3]);
        sum(parts, values + i);
    }
}

YARNGAP_WIDEST void valuesOfBoth(const SplinePlane& a, const SplinePlane& b, const Places* at, std::size_t n,
                                 float* ofA, float* ofB) {
    for (std::size_t i = 0; i < n; i += 8) {
        Parts partsA, partsB;
        for (std::size_t k = 0; k < 4; ++k)
            readTwo(a, b, at + i + 2 * k, partsA[k], partsB[k]);
        sum(partsA, ofA + i);
        sum(partsB, ofB + i);
    }
}

/// Where a place of row y and a motion lead, as PlanePair::follow() has it.
struct Way {
    Four share; ///< of the motion, as in Places
    Four last;
    float y;
};

YARNGAP_WIDEST void followMotions(const MidCell* cells, const MidCell* bends, std::size_t n, int x,
                                  const Way& way, Places* places) {
    for (std::size_t i = 0; i < n; ++i) {
        float px = static_cast<float>(x + static_cast<int>(i));
        float py = way.y;
        if (bends) {
            px -= bends[i].vx;
            py -= bends[i].vy;
        }
        const Four motion{cells[i].vx, cells[i].vy, cells[i].vx, cells[i].vy};
        Four place = Four{px, py, px, py} + way.share * motion;
        constexpr Four first{};
        place = place > first ? place : first; // so is what is not a number
        place = place < way.last ? place : way.last;
        using Whole = int __attribute__((vector_size(16)));
        const Whole whole =
            __builtin_convertvector(place * static_cast<float>(SplinePlane::fine) + 0.5F, Whole);
        std::memcpy(places + i, &whole, sizeof whole);
    }
}

constexpr std::size_t eight = 8;

} // namespace

void PlanePair::follow(std::span<const MidCell> cells, std::span<const MidCell> bends, int x, int y,
                       Places* places) const {
    const Way way{{-phase_, -phase_, 1 - phase_, 1 - phase_},
                  {right_, bottom_, right_, bottom_},
                  static_cast<float>(y)};
    followMotions(cells.data(), bends.empty() ? nullptr : bends.data(), cells.size(), x, way, places);
}

void PlanePair::readMixed(const Places* places, const float* shareB, std::size_t n, float* values) const {
    const std::size_t whole = n / eight * eight;
    mixedValues(a_, b_, places, shareB, whole, values);
    if (whole == n) return;
    std::array<Places, eight> rest{};
    std::array<float, eight> shares{};
    std::array<float, eight> sums{};
    std::copy(places + whole, places + n, rest.begin());
    std::copy(shareB + whole, shareB + n, shares.begin());
    mixedValues(a_, b_, rest.data(), shares.data(), eight, sums.data());
    std::copy_n(sums.begin(), n - whole, values + whole);
}

void PlanePair::readBoth(const Places* places, std::size_t n, float* ofA, float* ofB) const {
    const std::size_t whole = n / eight * eight;
    valuesOfBoth(a_, b_, places, whole, ofA, ofB);
    if (whole == n) return;
    std::array<Places, eight> rest{};
    std::array<float, eight> sumsA{};
    std::array<float, eight> sumsB{};
    std::copy(places + whole, places + n, rest.begin());
    valuesOfBoth(a_, b_, rest.data(), eight, sumsA.data(), sumsB.data());
    std::copy_n(sumsA.begin(), n - whole, ofA + whole);
    std::copy_n(sumsB.begin(), n - whole, ofB + whole);
}

} // namespace yarngap
