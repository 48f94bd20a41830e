#include "core/motion/semi_global_choice.h"

#include "core/progress.h"
#include "core/widest.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <utility>

namespace yarngap {

namespace {

using Eight = CellMotions::Eight;
using Wide = float __attribute__((vector_size(32))); ///< an Eight as the vector unit takes it

constexpr float perPixel = 3;
constexpr float dearest = 24;

// As in patch_search.cpp: written out in place, so that it is compiled for each processor with what calls it.
#define YARNGAP_IN_PLACE [[gnu::always_inline]] inline

YARNGAP_IN_PLACE void load(const Eight& from, Wide& v) {
    std::memcpy(&v, &from, sizeof v);
}

/// Adds `v`.
YARNGAP_IN_PLACE void addTo(Eight& sum, const Wide& v) {
    Wide all;
    load(sum, all);
    all += v;
    std::memcpy(&sum, &all, sizeof all);
}

YARNGAP_IN_PLACE void takeLower(Wide& a, const Wide& b) {
    a = b < a ? b : a;
}

/// The least of them, eight times.
YARNGAP_IN_PLACE void least(const Wide& v, Wide& out) {
    out = v;
    takeLower(out, __builtin_shufflevector(out, out, 4, 5, 6, 7, 0, 1, 2, 3));
    takeLower(out, __builtin_shufflevector(out, out, 2, 3, 0, 1, 6, 7, 4, 5));
    takeLower(out, __builtin_shufflevector(out, out, 1, 0, 3, 2, 5, 4, 7, 6));
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

    /// Follows `count` cells from `first`, `step` apart, there and back; so does as many chains as are
    /// `beside`, each beginning `apart` from the one before. Several share what is read of memory.
    void follow(std::size_t first, std::size_t step, int count, std::size_t beside, std::size_t apart) {
        const std::size_t last = first + step * static_cast<std::size_t>(std::max(0, count - 1));
        oneWay(first, static_cast<std::ptrdiff_t>(step), count, beside, apart);
        oneWay(last, -static_cast<std::ptrdiff_t>(step), count, beside, apart);
    }
    static constexpr std::size_t mostBeside = 8;

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
    /// A step from one cell to the next, of all ways.
    struct Step {
        const float* x; ///< of the cell before
        const float* y;
        Wide hereX, hereY;
        float ease;
    };

    YARNGAP_IN_PLACE void costAt(std::size_t way, std::size_t cell, Wide& cost) const {
        load(ways_[way].cost[cell], cost);
        cost += Wide{ways_[way].first, 0, 0, 0, 0, 0, 0, 0};
    }

    /// The cheapest way to each motion here from those of the cell before, which cost `before`; `best` begins
    /// as what any change costs.
    YARNGAP_IN_PLACE void change(const Step& step, std::size_t ways,
                                 const std::array<Eight, mostWays>& before,
                                 std::array<Wide, mostWays>& best) const {
        for (int m = 0; m < CellMotions::most; ++m) {
            Wide apart = step.hereX - step.x[m];
            Wide down = step.hereY - step.y[m];
            apart = apart < 0 ? -apart : apart;
            down = down < 0 ? -down : down;
            const Wide dearer = step.ease * perPixel * (apart + down);
            for (std::size_t w = 0; w < ways; ++w)
                takeLower(best[w], dearer + CellMotions::get(before[w], m));
        }
    }

    /// What chains side by side have cost up to a cell, as it is read one by one.
    using Costs = std::array<std::array<Eight, mostWays>, mostBeside>;

    YARNGAP_IN_PLACE void begin(std::size_t here, std::array<Eight, mostWays>& cost) {
        const std::size_t ways = ways_.size();
        for (std::size_t w = 0; w < ways; ++w) {
            Wide own;
            costAt(w, here, own);
            std::memcpy(&cost[w], &own, sizeof own);
            addTo(sums_[here * ways + w], own);
        }
    }

    YARNGAP_IN_PLACE void goOn(std::size_t before, std::size_t here, std::array<Eight, mostWays>& cost) {
        const std::size_t ways = ways_.size();
        Step to{reinterpret_cast<const float*>(&motions_.x[before]),
                reinterpret_cast<const float*>(&motions_.y[before]),
                {},
                {},
                easeBetween(here, before)};
        load(motions_.x[here], to.hereX);
        load(motions_.y[here], to.hereY);
        std::array<Wide, mostWays> best;
        std::array<Wide, mostWays> base;
        for (std::size_t w = 0; w < ways; ++w) {
            Wide last;
            load(cost[w], last);
            least(last, base[w]);
            best[w] = base[w] + to.ease * dearest;
        }
        change(to, ways, cost, best);
        for (std::size_t w = 0; w < ways; ++w) {
            Wide own;
            costAt(w, here, own);
            own += best[w] - base[w];
            std::memcpy(&cost[w], &own, sizeof own);
            addTo(sums_[here * ways + w], own);
        }
    }

    YARNGAP_WIDEST void oneWay(std::size_t first, std::ptrdiff_t step, int count, std::size_t beside,
                               std::size_t apart) {
        Costs costs;
        for (std::size_t k = 0; k < beside; ++k)
            begin(first + k * apart, costs[k]);
        std::size_t here = first;
        for (int n = 1; n < count; ++n) {
            const std::size_t before = here;
            here = static_cast<std::size_t>(static_cast<std::ptrdiff_t>(here) + step);
            for (std::size_t k = 0; k < beside; ++k)
                goOn(before + k * apart, here + k * apart, costs[k]);
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
        cell.fill(CellMotions::Four{} + never);
}

std::vector<std::vector<std::uint8_t>> chooseSemiGlobally(const CellMotions& motions,
                                                          std::span<const CellCosts> ways,
                                                          const ColouredPicture& picture,
                                                          const std::stop_token& stop) {
    const auto width = static_cast<std::size_t>(motions.width);
    Chains chains(motions, ways.first(std::min(mostWays, ways.size())), picture);
    const auto height = static_cast<std::size_t>(motions.height);
    const auto inBlocks = [&](std::size_t chainCount, const auto& follow) {
        constexpr std::size_t block = Chains::mostBeside;
        tbb::parallel_for(std::size_t{0}, (chainCount + block - 1) / block, [&](std::size_t n) {
            if (!stop.stop_requested()) follow(n * block, std::min(block, chainCount - n * block));
        });
        throwIfStopped(stop);
    };
    inBlocks(height, [&](std::size_t row, std::size_t beside) {
        chains.follow(row * width, 1, motions.width, beside, width);
    });
    inBlocks(width, [&](std::size_t column, std::size_t beside) {
        chains.follow(column, width, motions.height, beside, 1);
    });
    std::vector<std::vector<std::uint8_t>> out(ways.size());
    tbb::parallel_for(std::size_t{0}, out.size(), [&](std::size_t way) { out[way] = chains.cheapest(way); });
    return out;
}

std::vector<std::uint8_t> chooseSemiGlobally(const CellMotions& motions, const ColouredPicture& picture,
                                             const std::stop_token& stop) {
    return std::move(chooseSemiGlobally(motions, std::array{CellCosts{motions.cost}}, picture, stop).front());
}

} // namespace yarngap
