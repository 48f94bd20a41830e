#include "core/motion/local_motions.h"

#include "core/progress.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <unordered_map>

namespace yarngap {

namespace {

constexpr int side = LocalMotions::side;
constexpr int reach = LocalMotions::reach;
constexpr float leastPart = 0.02F;
constexpr float longest = 10'000;

using Places = cv::Matx<float, 3, 2>; ///< rows: 1, x and y of the places, times both parts of the motion

/// What is needed to fit an even motion to samples that move by the same whole pixels.
struct Bin {
    int x, y; ///< whole pixels of motion
    float weight = 0;
    /// Of what is summed over samples: x, y, xx, xy, yy of the place, and 1, x, y of it times what the motion
    /// is beyond whole pixels, across and down.
    float placeX = 0, placeY = 0, xx = 0, xy = 0, yy = 0;
    std::array<float, 3> across{}, down{};

    void add(float px, float py, const cv::Vec2f& motion, float w) {
        weight += w;
        const float wx = w * px;
        const float wy = w * py;
        placeX += wx;
        placeY += wy;
        xx += wx * px;
        xy += wx * py;
        yy += wy * py;
        const float right = motion[0] - static_cast<float>(x);
        const float below = motion[1] - static_cast<float>(y);
        across = {across[0] + w * right, across[1] + wx * right, across[2] + wy * right};
        down = {down[0] + w * below, down[1] + wx * below, down[2] + wy * below};
    }
    /// The same with places counted from elsewhere: (right, below) is added to each.
    [[nodiscard]] Bin from(float right, float below) const {
        Bin out = *this;
        out.placeX += weight * right;
        out.placeY += weight * below;
        out.xx += (2 * placeX + weight * right) * right;
        out.xy += placeX * below + placeY * right + weight * right * below;
        out.yy += (2 * placeY + weight * below) * below;
        out.across = {across[0], across[1] + right * across[0], across[2] + below * across[0]};
        out.down = {down[0], down[1] + right * down[0], down[2] + below * down[0]};
        return out;
    }
    /// Adds what another bin has.
    void add(const Bin& other) {
        const float right = static_cast<float>(other.x - x);
        const float below = static_cast<float>(other.y - y);
        const std::array<float, 3> ones{other.weight, other.placeX, other.placeY};
        for (std::size_t i = 0; i < 3; ++i) {
            across[i] += other.across[i] + ones[i] * right;
            down[i] += other.down[i] + ones[i] * below;
        }
        weight += other.weight;
        placeX += other.placeX;
        placeY += other.placeY;
        xx += other.xx;
        xy += other.xy;
        yy += other.yy;
    }
    /// Of (1, x, y) with itself.
    [[nodiscard]] cv::Matx33d products() const {
        return {weight, placeX, placeY, placeX, xx, xy, placeY, xy, yy};
    }
    [[nodiscard]] cv::Matx<double, 3, 2> sums() const {
        return {across[0], down[0], across[1], down[1], across[2], down[2]};
    }
    [[nodiscard]] cv::Vec2f whole() const { return {static_cast<float>(x), static_cast<float>(y)}; }
    [[nodiscard]] bool isBeside(const Bin& other) const {
        return std::abs(x - other.x) <= 1 && std::abs(y - other.y) <= 1;
    }
};

/// Samples of one tile, by whole pixels of motion.
class Bins {
  public:
    Bin& of(const cv::Vec2f& motion) {
        const auto whole = [](float v) { return static_cast<int>(std::floor(v + 0.5F)); };
        return of(whole(motion[0]), whole(motion[1]));
    }
    Bin& of(int x, int y) {
        // Neighbours mostly move alike.
        if (last_ < bins_.size() && bins_[last_].x == x && bins_[last_].y == y) return bins_[last_];
        const std::int64_t key = (static_cast<std::int64_t>(x) << 32) + y;
        const auto [found, isNew] = numbers_.try_emplace(key, bins_.size());
        if (isNew) bins_.push_back({x, y});
        last_ = found->second;
        return bins_[last_];
    }
    [[nodiscard]] std::vector<Bin> takeAll() { return std::move(bins_); }

    /// Takes out the most common motion there still is, with what is beside it; none has no weight.
    Bin takeMostCommon() {
        const auto largest = std::max_element(bins_.begin(), bins_.end(),
                                              [](const Bin& a, const Bin& b) { return a.weight < b.weight; });
        if (largest == bins_.end()) return {};
        Bin out{largest->x, largest->y};
        for (Bin& bin : bins_) {
            if (!bin.isBeside(out)) continue;
            out.add(bin);
            bin = {bin.x, bin.y};
        }
        return out;
    }

  private:
    std::vector<Bin> bins_;
    std::unordered_map<std::int64_t, std::size_t> numbers_;
    std::size_t last_ = 0;
};

/// Least squares; rows: the motion at the middle, and its change right and down.
Places fitted(const Bin& bin, float total) {
    cv::Matx33d products = bin.products();
    // What is seen on a narrow strip says little of how motion changes across it.
    const double steady = 0.002 * static_cast<double>(total);
    products(0, 0) += 1e-9;
    products(1, 1) += steady;
    products(2, 2) += steady;
    const cv::Matx<double, 3, 2> sums = bin.sums();
    Places out = products.solve(sums, cv::DECOMP_CHOLESKY);
    out(0, 0) += bin.whole()[0];
    out(0, 1) += bin.whole()[1];
    return out;
}

/// The samples of one tile, places counted from its middle in parts of reach.
std::vector<Bin> binsOf(const cv::Rect& tile, const VectorField& field, const TrustField& trust) {
    constexpr int apart = 3;
    const auto firstFrom = [](int place) { return (place + apart - 1) / apart * apart; };
    const auto part = [](int pixels) { return static_cast<float>(pixels) / reach; };
    Bins bins;
    for (int y = firstFrom(tile.y); y < std::min(field.height, tile.br().y); y += apart)
        for (int x = firstFrom(tile.x); x < std::min(field.width, tile.br().x); x += apart) {
            const cv::Vec2f motion(field.row(y)[2 * x], field.row(y)[2 * x + 1]);
            if (!(std::abs(motion[0]) < longest && std::abs(motion[1]) < longest)) continue;
            const float weight = 0.02F + static_cast<float>(trust.row(y)[x]) / 255.0F;
            bins.of(motion).add(part(x - tile.x - tile.width / 2), part(y - tile.y - tile.height / 2), motion,
                                weight);
        }
    return bins.takeAll();
}

/// At most LocalMotions::most of them; takes them out of `bins`.
std::vector<Places> mostCommonOf(Bins& bins, float total) {
    std::vector<Places> out;
    while (out.size() < LocalMotions::most) {
        const Bin common = bins.takeMostCommon();
        if (common.weight <= 0 || common.weight < leastPart * total) break;
        out.push_back(fitted(common, total));
    }
    return out;
}

} // namespace

LocalMotions::LocalMotions(const VectorField& field, const TrustField& trust, const std::stop_token& stop)
    : across_((field.width + side - 1) / side) {
    const int down = (field.height + side - 1) / side;
    const auto placeOf = [this](int column, int row) {
        return static_cast<std::size_t>(row) * static_cast<std::size_t>(across_) +
               static_cast<std::size_t>(column);
    };
    tiles_.resize(static_cast<std::size_t>(across_) * static_cast<std::size_t>(down));
    std::vector<std::vector<Bin>> bins(tiles_.size());
    tbb::parallel_for(0, down, [&](int row) {
        for (int column = 0; column < across_ && !stop.stop_requested(); ++column)
            bins[placeOf(column, row)] = binsOf({column * side, row * side, side, side}, field, trust);
    });
    tbb::parallel_for(0, down, [&](int row) {
        for (int column = 0; column < across_ && !stop.stop_requested(); ++column) {
            constexpr int around = reach / side; // and half a tile more
            constexpr float part = static_cast<float>(side) / reach;
            Bins all;
            float total = 0;
            for (int r = std::max(0, row - around); r <= std::min(down - 1, row + around); ++r)
                for (int c = std::max(0, column - around); c <= std::min(across_ - 1, column + around); ++c)
                    for (const Bin& bin : bins[placeOf(c, r)]) {
                        all.of(bin.x, bin.y)
                            .add(bin.from(part * static_cast<float>(c - column),
                                          part * static_cast<float>(r - row)));
                        total += bin.weight;
                    }
            Tile& tile = tiles_[placeOf(column, row)];
            for (const Places& fit : mostCommonOf(all, total))
                tile.motions[static_cast<std::size_t>(tile.count++)] = {
                    {fit(0, 0), fit(0, 1)}, {fit(1, 0), fit(1, 1)}, {fit(2, 0), fit(2, 1)}};
        }
    });
    throwIfStopped(stop);
}

cv::Vec2f LocalMotions::at(int i, int x, int y) const {
    const Motion& motion = tileAt(x, y).motions[static_cast<std::size_t>(i)];
    const auto part = [](int pixels) { return static_cast<float>(pixels) / static_cast<float>(reach); };
    return motion.middle + part(x % side - side / 2) * motion.across +
           part(y % side - side / 2) * motion.down;
}

} // namespace yarngap
