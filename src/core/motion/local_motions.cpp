#include "core/motion/local_motions.h"

#include "core/progress.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <unordered_map>

namespace yarngap {

namespace {

constexpr float leastPart = 0.02F;
constexpr float longest = 10'000;

using Places = cv::Matx<float, 3, 2>; ///< rows: 1, x and y of the places, times both parts of the motion

/// What is needed to fit an even motion to samples that move by the same whole pixels.
struct Bin {
    int x, y; ///< whole pixels of motion
    float weight = 0;
    cv::Matx33f products = cv::Matx33f::zeros(); ///< of (1, x, y) with itself
    Places sums = Places::zeros();               ///< of (1, x, y) with what the motion is beyond whole pixels

    void add(const cv::Vec3f& place, const cv::Vec2f& motion, float w) {
        weight += w;
        products += w * (place * place.t());
        sums += w * (place * (motion - whole()).t());
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
        const int x = whole(motion[0]);
        const int y = whole(motion[1]);
        // Neighbours mostly move alike.
        if (last_ < bins_.size() && bins_[last_].x == x && bins_[last_].y == y) return bins_[last_];
        const std::int64_t key = (static_cast<std::int64_t>(x) << 32) + y;
        const auto [found, isNew] = numbers_.try_emplace(key, bins_.size());
        if (isNew) bins_.push_back({x, y});
        last_ = found->second;
        return bins_[last_];
    }

    /// Takes out the most common motion there still is, with what is beside it; none has no weight.
    Bin takeMostCommon() {
        const auto largest = std::max_element(bins_.begin(), bins_.end(),
                                              [](const Bin& a, const Bin& b) { return a.weight < b.weight; });
        if (largest == bins_.end()) return {};
        Bin out{largest->x, largest->y};
        for (Bin& bin : bins_) {
            if (!bin.isBeside(out)) continue;
            out.weight += bin.weight;
            out.products += bin.products;
            out.sums += bin.sums;
            const cv::Vec2f beyond = bin.whole() - out.whole();
            for (int i = 0; i < 3; ++i)
                for (int c = 0; c < 2; ++c)
                    out.sums(i, c) += bin.products(i, 0) * beyond[c];
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
    cv::Matx33d products = bin.products;
    // What is seen on a narrow strip says little of how motion changes across it.
    const double steady = 0.002 * static_cast<double>(total);
    products(0, 0) += 1e-9;
    products(1, 1) += steady;
    products(2, 2) += steady;
    const cv::Matx<double, 3, 2> sums = bin.sums;
    Places out = products.solve(sums, cv::DECOMP_CHOLESKY);
    out(0, 0) += bin.whole()[0];
    out(0, 1) += bin.whole()[1];
    return out;
}

} // namespace

LocalMotions::LocalMotions(const VectorField& field, const TrustField& trust, const std::stop_token& stop)
    : across_((field.width + side - 1) / side) {
    const int down = (field.height + side - 1) / side;
    tiles_.resize(static_cast<std::size_t>(across_) * static_cast<std::size_t>(down));
    tbb::parallel_for(0, down, [&](int row) {
        for (int column = 0; column < across_ && !stop.stop_requested(); ++column)
            tiles_[static_cast<std::size_t>(row) * static_cast<std::size_t>(across_) +
                   static_cast<std::size_t>(column)] =
                tileAround({column * side + side / 2, row * side + side / 2}, field, trust);
    });
    throwIfStopped(stop);
}

LocalMotions::Tile LocalMotions::tileAround(const cv::Point& middle, const VectorField& field,
                                            const TrustField& trust) {
    constexpr int apart = 3;
    Bins bins;
    float total = 0;
    const auto part = [](int pixels) { return static_cast<float>(pixels) / static_cast<float>(reach); };
    for (int y = std::max(0, middle.y - reach); y < std::min(field.height, middle.y + reach); y += apart)
        for (int x = std::max(0, middle.x - reach); x < std::min(field.width, middle.x + reach); x += apart) {
            const cv::Vec2f motion(field.row(y)[2 * x], field.row(y)[2 * x + 1]);
            if (!(std::abs(motion[0]) < longest && std::abs(motion[1]) < longest)) continue;
            const float weight = 0.02F + static_cast<float>(trust.row(y)[x]) / 255.0F;
            bins.of(motion).add({1, part(x - middle.x), part(y - middle.y)}, motion, weight);
            total += weight;
        }
    Tile tile;
    while (tile.count < most) {
        const Bin common = bins.takeMostCommon();
        if (common.weight <= 0 || common.weight < leastPart * total) break;
        const Places fit = fitted(common, total);
        tile.motions[static_cast<std::size_t>(tile.count)] = {
            {fit(0, 0), fit(0, 1)}, {fit(1, 0), fit(1, 1)}, {fit(2, 0), fit(2, 1)}};
        ++tile.count;
    }
    return tile;
}

cv::Vec2f LocalMotions::at(int i, int x, int y) const {
    const Motion& motion = tileAt(x, y).motions[static_cast<std::size_t>(i)];
    const auto part = [](int pixels) { return static_cast<float>(pixels) / static_cast<float>(reach); };
    return motion.middle + part(x % side - side / 2) * motion.across +
           part(y % side - side / 2) * motion.down;
}

} // namespace yarngap
