#include "core/synthesis/uneven_cells.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <mutex>

namespace yarngap {

namespace {

std::size_t placeIn(const MidMotion& mid, int x, int y) {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(mid.width) + static_cast<std::size_t>(x);
}

bool moveApart(const MidCell& p, const MidCell& q) {
    return std::abs(p.vx - q.vx) + std::abs(p.vy - q.vy) > MidMotion::apart;
}

std::uint8_t seamsAt(const MidMotion& mid, int x, int y) {
    const MidCell& here = mid.row(y)[x];
    std::uint8_t seams = 0;
    if (x + 1 < mid.width && moveApart(here, mid.row(y)[x + 1])) seams |= MidMotion::seamAfter;
    if (y + 1 < mid.height && moveApart(here, mid.row(y + 1)[x])) seams |= MidMotion::seamBelow;
    return seams;
}

/// A cell that is to be changed.
struct Joined {
    int x, y;
    float vx, vy, share;
};

/// What a lone cell between `one` and `other` becomes, if they move alike and it does not.
bool joinTo(const MidMotion& mid, const std::vector<float>& shares, int dx, int dy, Joined& cell) {
    const MidCell& here = mid.row(cell.y)[cell.x];
    const MidCell& one = mid.row(cell.y - dy)[cell.x - dx];
    const MidCell& other = mid.row(cell.y + dy)[cell.x + dx];
    if (!moveApart(here, one) || !moveApart(here, other) || moveApart(one, other)) return false;
    cell.vx = 0.5F * (one.vx + other.vx);
    cell.vy = 0.5F * (one.vy + other.vy);
    cell.share = 0.5F * (shares[placeIn(mid, cell.x - dx, cell.y - dy)] +
                         shares[placeIn(mid, cell.x + dx, cell.y + dy)]);
    return true;
}

/// How much a cell that moves otherwise counts: a little, since where motion is found wrong, a hard change
/// does more harm. Counting 0.25, a line of the subject can be seen beside it again.
constexpr float acrossSeam = 0.1F;

/// 3 x 3 means of a plane.
std::vector<float> meansAround(const std::vector<float>& plane, int w, int h) {
    std::vector<float> rows(plane.size());
    const auto rowOf = [w, h](auto& of, int y) {
        return of.data() + static_cast<std::size_t>(std::clamp(y, 0, h - 1)) * static_cast<std::size_t>(w);
    };
    tbb::parallel_for(0, h, [&](int y) {
        const float* in = rowOf(plane, y);
        float* out = rowOf(rows, y);
        for (int x = 0; x < w; ++x)
            out[x] = in[std::max(0, x - 1)] + in[x] + in[std::min(w - 1, x + 1)];
    });
    std::vector<float> means(plane.size());
    tbb::parallel_for(0, h, [&](int y) {
        const float* above = rowOf(rows, y - 1);
        const float* here = rowOf(rows, y);
        const float* below = rowOf(rows, y + 1);
        float* out = rowOf(means, y);
        for (int x = 0; x < w; ++x)
            out[x] = (above[x] + here[x] + below[x]) * (1.0F / 9.0F);
    });
    return means;
}

} // namespace

void markSeams(MidMotion& mid) {
    mid.seams.resize(mid.cells.size());
    tbb::parallel_for(0, mid.height, [&](int y) {
        const MidCell* here = mid.row(y);
        const MidCell* below = mid.row(std::min(mid.height - 1, y + 1));
        std::uint8_t* to = mid.seams.data() + placeIn(mid, 0, y);
        for (int x = 0; x + 1 < mid.width; ++x)
            to[x] = static_cast<std::uint8_t>(moveApart(here[x], here[x + 1]) * MidMotion::seamAfter +
                                              moveApart(here[x], below[x]) * MidMotion::seamBelow);
        if (mid.width > 0) to[mid.width - 1] = seamsAt(mid, mid.width - 1, y);
    });
}

void joinLoneCells(MidMotion& mid, std::vector<float>& shares) {
    std::vector<Joined> joined;
    std::mutex joining;
    tbb::parallel_for(1, std::max(1, mid.height - 1), [&](int y) {
        const std::uint8_t* here = mid.seams.data() + placeIn(mid, 0, y);
        const std::uint8_t* above = here - mid.width;
        for (int x = 1; x + 1 < mid.width; ++x) {
            const int sides = (here[x] & MidMotion::seamAfter) + (here[x] & MidMotion::seamBelow) / 2 +
                              (here[x - 1] & MidMotion::seamAfter) + (above[x] & MidMotion::seamBelow) / 2;
            constexpr int lone = 3;
            if (sides < lone) continue;
            Joined cell{x, y, 0, 0, 0};
            if (!joinTo(mid, shares, 1, 0, cell) && !joinTo(mid, shares, 0, 1, cell)) continue;
            const std::scoped_lock lock(joining);
            joined.push_back(cell);
        }
    });
    for (const Joined& cell : joined) {
        mid.row(cell.y)[cell.x].vx = cell.vx;
        mid.row(cell.y)[cell.x].vy = cell.vy;
        shares[placeIn(mid, cell.x, cell.y)] = cell.share;
    }
    for (const Joined& cell : joined)
        for (const auto& [x, y] :
             {std::pair(cell.x, cell.y), std::pair(cell.x - 1, cell.y), std::pair(cell.x, cell.y - 1)})
            mid.seams[placeIn(mid, x, y)] = seamsAt(mid, x, y);
}

void softenShares(std::vector<float>& shares, const MidMotion& mid) {
    const int w = mid.width;
    const int h = mid.height;
    std::vector<float> soft = meansAround(shares, w, h);
    tbb::parallel_for(0, h, [&](int y) {
        const auto rowAt = [&](int at) {
            return mid.seams.data() + placeIn(mid, 0, std::clamp(at, 0, h - 1));
        };
        const std::uint8_t* above = rowAt(y - 1);
        const std::uint8_t* here = rowAt(y);
        const std::uint8_t* below = rowAt(y + 1);
        for (int x = 0; x < w; ++x) {
            // Any seam that bounds one of the nine cells touches one of these.
            const int last = std::min(w - 1, x + 1);
            const int first = std::max(0, x - 1);
            if (!(here[first] | here[x] | here[last] | above[first] | above[x] | above[last] | below[first] |
                  below[x]))
                continue;
            const MidCell& cell = mid.row(y)[x];
            float sum = 0;
            float count = 0;
            for (int j = std::max(0, y - 1); j <= std::min(h - 1, y + 1); ++j)
                for (int i = first; i <= last; ++i) {
                    const float weight = moveApart(cell, mid.row(j)[i]) ? acrossSeam : 1.0F;
                    sum += weight * shares[placeIn(mid, i, j)];
                    count += weight;
                }
            soft[placeIn(mid, x, y)] = sum / count;
        }
    });
    shares = std::move(soft);
}

} // namespace yarngap
