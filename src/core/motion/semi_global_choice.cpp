#include "core/motion/semi_global_choice.h"

#include "core/progress.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <utility>

namespace yarngap {

namespace {

using Four = CellMotions::Four;
using Eight = CellMotions::Eight;

constexpr float perPixel = 3;
constexpr float dearest = 24;

Four lower(const Four& a, const Four& b) {
    return a < b ? a : b;
}

Four size(const Four& v) {
    return v < 0 ? -v : v;
}

float least(const Eight& v) {
    float out = CellMotions::get(v, 0);
    for (int k = 1; k < CellMotions::most; ++k)
        out = std::min(out, CellMotions::get(v, k));
    return out;
}

void add(Eight& sum, const Eight& v) {
    for (std::size_t part = 0; part < sum.size(); ++part)
        sum[part] += v[part];
}

constexpr std::size_t mostWays = 5;

/// Carries costs along rows and columns.
class Chains {
  public:
    Chains(const CellMotions& motions, std::span<const CellCosts> ways, const ColouredPicture& picture)
        : motions_(motions)
        , ways_(ways)
        , picture_(picture)
        , sums_(motions.x.size() * ways.size(), Eight{}) {}

    /// Follows `count` cells from `first`, `step` apart, there and back.
    void follow(std::size_t first, std::ptrdiff_t step, int count) {
        const std::size_t last =
            first + static_cast<std::size_t>(step) * static_cast<std::size_t>(std::max(0, count - 1));
        oneWay(first, step, count);
        oneWay(last, -step, count);
    }

    [[nodiscard]] std::vector<std::uint8_t> cheapest(std::size_t way) const {
        std::vector<std::uint8_t> out(motions_.x.size());
        for (std::size_t i = 0; i < out.size(); ++i) {
            const Eight& sum = sums_[i * ways_.size() + way];
            int best = 0;
            for (int k = 1; k < CellMotions::most; ++k)
                if (CellMotions::get(sum, k) < CellMotions::get(sum, best)) best = k;
            out[i] = static_cast<std::uint8_t>(best);
        }
        return out;
    }

  private:
    [[nodiscard]] Eight costAt(std::size_t way, std::size_t cell) const {
        Eight cost = ways_[way].cost[cell];
        cost[0] += Four{ways_[way].first, 0, 0, 0};
        return cost;
    }

    void oneWay(std::size_t first, std::ptrdiff_t step, int count) {
        const std::size_t ways = ways_.size();
        std::size_t here = first;
        std::array<Eight, mostWays> cost;
        std::array<Eight, mostWays> best;
        std::array<float, mostWays> base{};
        for (std::size_t w = 0; w < ways; ++w) {
            cost[w] = costAt(w, here);
            add(sums_[here * ways + w], cost[w]);
        }
        for (int n = 1; n < count; ++n) {
            const std::size_t before = here;
            here = static_cast<std::size_t>(static_cast<std::ptrdiff_t>(here) + step);
            const float ease = easeBetween(here, before);
            for (std::size_t w = 0; w < ways; ++w) {
                base[w] = least(cost[w]);
                best[w].fill(Four{} + (base[w] + ease * dearest));
            }
            for (int m = 0; m < CellMotions::most; ++m) {
                const float x = CellMotions::get(motions_.x[before], m);
                const float y = CellMotions::get(motions_.y[before], m);
                for (std::size_t part = 0; part < std::tuple_size_v<Eight>; ++part) {
                    const Four apart = size(motions_.x[here][part] - x) + size(motions_.y[here][part] - y);
                    const Four change = ease * perPixel * apart;
                    for (std::size_t w = 0; w < ways; ++w)
                        best[w][part] = lower(CellMotions::get(cost[w], m) + change, best[w][part]);
                }
            }
            for (std::size_t w = 0; w < ways; ++w) {
                cost[w] = costAt(w, here);
                for (std::size_t part = 0; part < std::tuple_size_v<Eight>; ++part)
                    cost[w][part] += best[w][part] - base[w];
                add(sums_[here * ways + w], cost[w]);
            }
        }
    }

    /// How dearly motion changes between two cells.
    [[nodiscard]] float easeBetween(std::size_t i, std::size_t j) const {
        const auto* luma = picture_.luma.ptr<std::uint8_t>();
        int apart = std::abs(luma[i] - luma[j]);
        if (!picture_.colour.empty()) {
            const auto* colour = picture_.colour.ptr<cv::Vec2b>();
            apart += std::abs(colour[i][0] - colour[j][0]) + std::abs(colour[i][1] - colour[j][1]);
        }
        static const std::array<float, 3 * 255 + 1> table = [] {
            std::array<float, 3 * 255 + 1> out{};
            for (std::size_t c = 0; c < out.size(); ++c)
                out[c] = 0.2F + 0.8F * std::exp(-static_cast<float>(c) / 7);
            return out;
        }();
        return table[static_cast<std::size_t>(apart)];
    }

    const CellMotions& motions_;
    std::span<const CellCosts> ways_;
    const ColouredPicture& picture_;
    std::vector<Eight> sums_; ///< of each cell, way by way
};

} // namespace

CellMotions::CellMotions(int w, int h)
    : width(w)
    , height(h)
    , cost(static_cast<std::size_t>(w) * static_cast<std::size_t>(h))
    , x(cost.size(), Eight{})
    , y(cost.size(), Eight{}) {
    for (Eight& cell : cost)
        cell.fill(Four{} + never);
}

std::vector<std::vector<std::uint8_t>> chooseSemiGlobally(const CellMotions& motions,
                                                          std::span<const CellCosts> ways,
                                                          const ColouredPicture& picture,
                                                          const std::stop_token& stop) {
    const auto width = static_cast<std::size_t>(motions.width);
    Chains chains(motions, ways.first(std::min(mostWays, ways.size())), picture);
    tbb::parallel_for(0, motions.height, [&](int row) {
        if (!stop.stop_requested()) chains.follow(static_cast<std::size_t>(row) * width, 1, motions.width);
    });
    throwIfStopped(stop);
    tbb::parallel_for(0, motions.width, [&](int column) {
        if (!stop.stop_requested())
            chains.follow(static_cast<std::size_t>(column), motions.width, motions.height);
    });
    throwIfStopped(stop);
    std::vector<std::vector<std::uint8_t>> out(ways.size());
    tbb::parallel_for(std::size_t{0}, out.size(), [&](std::size_t way) { out[way] = chains.cheapest(way); });
    return out;
}

std::vector<std::uint8_t> chooseSemiGlobally(const CellMotions& motions, const ColouredPicture& picture,
                                             const std::stop_token& stop) {
    return std::move(chooseSemiGlobally(motions, std::array{CellCosts{motions.cost}}, picture, stop).front());
}

} // namespace yarngap
