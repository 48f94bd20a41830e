#include "core/synthesis/moved_plane.h"

#include <algorithm>
#include <cmath>
#include <span>

namespace yarngap {

namespace {

/// A share of b that is next to nothing or next to all is taken for that.
float visibleShare(float shareB) {
    constexpr float seen = 0.001F;
    return shareB <= seen ? 0.0F : shareB >= 1 - seen ? 1.0F : shareB;
}

bool showsTheSame(const MidCell& one, const MidCell& other) {
    constexpr float place = 0.1F; // samples
    constexpr float share = 0.05F;
    const auto apart = [](float p, float q) { return std::abs(p - q); };
    return apart(one.vx, other.vx) + apart(one.vy, other.vy) < place &&
           apart(one.shareB, other.shareB) < share;
}

} // namespace

MovedPlane::MovedPlane(const Image& a, const Image& b, const std::vector<MidMotion>& motions,
                       const MidMotion& bend, float t, int p)
    : pair_(a, b, t, p)
    , cells_(motions.front(), a, p)
    , bends_(bend, a, p)
    , bent_(!bend.cells.empty()) {
    others_.reserve(motions.size() - 1);
    for (std::size_t i = 1; i < motions.size(); ++i)
        others_.emplace_back(motions[i], a, p);
}

void MovedPlane::read(int y, Row& row) const {
    follow(y, row);
    pair_.readMixed(row.places.data(), row.shares.data(), row.cells.size(), row.values.data());
    mixOthers(y, row);
}

void MovedPlane::readWithDifferences(int y, Row& row) const {
    follow(y, row);
    const std::size_t n = row.cells.size();
    row.differences.resize(n);
    row.ofB.resize(n);
    pair_.readBoth(row.places.data(), n, row.differences.data(), row.ofB.data());
    for (std::size_t x = 0; x < n; ++x) {
        const float a = row.differences[x];
        const float share = row.shares[x];
        row.values[x] = a + share * (row.ofB[x] - a);
        row.differences[x] = share > 0 && share < 1 ? a - row.ofB[x] : 0.0F;
    }
    mixOthers(y, row);
}

void MovedPlane::follow(int y, Row& row) const {
    cells_.row(y, row.cells);
    if (bent_) bends_.row(y, row.bends);
    const std::size_t n = row.cells.size();
    row.places.resize(n);
    row.shares.resize(n);
    row.values.resize(n);
    pair_.follow(row.cells, row.bends, 0, y, row.places.data());
    std::transform(row.cells.begin(), row.cells.end(), row.shares.begin(),
                   [](const MidCell& cell) { return visibleShare(cell.shareB); });
}

void MovedPlane::mixOthers(int y, Row& row) const {
    if (others_.empty()) return;
    const std::size_t n = row.cells.size();
    const float part = 1.0F / static_cast<float>(1 + others_.size());
    row.agreeing.assign(n, 1);
    row.sums.assign(n, 0);
    for (const PlaneCells& other : others_) {
        other.row(y, row.otherCells);
        readWhereDifferent(y, row);
        for (std::size_t i = 0; i < row.where.size(); ++i) {
            row.agreeing[row.where[i]] -= part;
            row.sums[row.where[i]] += part * row.ofB[i];
        }
    }
    for (std::size_t x = 0; x < n; ++x)
        row.values[x] = row.agreeing[x] * row.values[x] + row.sums[x];
}

void MovedPlane::readWhereDifferent(int y, Row& row) const {
    row.where.clear();
    for (std::size_t x = 0; x < row.cells.size(); ++x)
        if (!showsTheSame(row.otherCells[x], row.cells[x])) row.where.push_back(x);
    const std::size_t n = row.where.size();
    row.places.resize(row.cells.size());
    row.shares.resize(row.cells.size());
    row.ofB.resize(row.cells.size());
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t x = row.where[i];
        const MidCell& cell = row.otherCells[x];
        const std::span<const MidCell> bends =
            bent_ ? std::span<const MidCell>(row.bends).subspan(x, 1) : std::span<const MidCell>();
        pair_.follow({&cell, 1}, bends, static_cast<int>(x), y, &row.places[i]);
        row.shares[i] = visibleShare(cell.shareB);
    }
    pair_.readMixed(row.places.data(), row.shares.data(), n, row.ofB.data());
}

} // namespace yarngap
