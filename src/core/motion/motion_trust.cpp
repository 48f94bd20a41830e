#include "core/motion/motion_trust.h"

#include "core/widest.h"

#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <array>
#include <cmath>

namespace yarngap {

namespace {

cv::Mat meansOf(const cv::Mat& picture) {
    cv::Mat out;
    cv::blur(picture, out, {3, 3});
    return out;
}

/// 255 exp(-x), rounded, at steps of x that change it by half a step at most.
class TrustTable {
  public:
    TrustTable() {
        for (std::size_t i = 0; i < values_.size(); ++i)
            values_[i] =
                static_cast<std::uint8_t>(255 * std::exp(-(static_cast<double>(i) + 0.5) / perOne) + 0.5);
    }
    /// `x` is not negative.
    [[nodiscard]] std::uint8_t at(float x) const {
        return values_[static_cast<std::size_t>(std::min(x * perOne, static_cast<float>(size - 1)))];
    }

  private:
    static constexpr float perOne = 512;
    static constexpr std::size_t size = 7 * 512; // exp(-7) is less than half a step
    std::array<std::uint8_t, size> values_{};
};

/// What a row's vectors lead to.
struct LedTo {
    std::vector<int> place;         ///< number of the pixel, or -1 where it lies outside
    std::vector<float> perDistance; ///< 1 / s² (see estimateFlow)

    explicit LedTo(int width)
        : place(static_cast<std::size_t>(width))
        , perDistance(place.size()) {}
};

/// `nearest` is s of what stands still, in samples.
YARNGAP_WIDEST void follow(const float* v, int y, int width, int height, float nearest, int* place,
                           float* perDistance) {
    const auto right = static_cast<float>(width) - 0.5F;
    const auto bottom = static_cast<float>(height) - 0.5F;
#pragma GCC ivdep
    for (int x = 0; x < width; ++x) {
        const float vx = v[2 * x];
        const float vy = v[2 * x + 1];
        const float tx = static_cast<float>(x) + vx;
        const float ty = static_cast<float>(y) + vy;
        const bool inside = (tx >= -0.5F) & (ty >= -0.5F) & (tx < right) & (ty < bottom);
        const int ix = static_cast<int>(inside ? tx + 0.5F : 0.0F);
        const int iy = static_cast<int>(inside ? ty + 0.5F : 0.0F);
        place[x] = inside ? iy * width + ix : -1;
        const float s = nearest + 0.05F * std::sqrt(vx * vx + vy * vy);
        perDistance[x] = 1.0F / (s * s);
    }
}

TrustField oneWay(const cv::Mat& own, const cv::Mat& back, const cv::Mat& fromMeans, const cv::Mat& toMeans,
                  float nearest) {
    static const TrustTable table;
    constexpr float perDifference = 1.0F / (24.0F * 24.0F);
    const int w = own.cols;
    const int h = own.rows;
    TrustField trust{w, h, {}};
    trust.values.resize(static_cast<std::size_t>(w) * static_cast<std::size_t>(h));
    const bool whole = back.isContinuous() && toMeans.isContinuous();
    const cv::Mat backHere = whole ? back : back.clone();
    const cv::Mat toHere = whole ? toMeans : toMeans.clone();
    const auto* returns = backHere.ptr<float>();
    const auto* meansThere = toHere.ptr<std::uint8_t>();
    tbb::parallel_for(tbb::blocked_range<int>(0, h, 16), [&](const tbb::blocked_range<int>& rows) {
        LedTo led(w);
        for (int y = rows.begin(); y < rows.end(); ++y) {
            const auto* v = own.ptr<float>(y);
            const auto* means = fromMeans.ptr<std::uint8_t>(y);
            follow(v, y, w, h, nearest, led.place.data(), led.perDistance.data());
            std::uint8_t* out = trust.row(y);
            for (int x = 0; x < w; ++x) {
                const auto i = static_cast<std::size_t>(x);
                const std::ptrdiff_t there = led.place[i];
                if (there < 0) {
                    out[x] = 0;
                    continue;
                }
                const float ex = v[2 * x] + returns[2 * there];
                const float ey = v[2 * x + 1] + returns[2 * there + 1];
                const auto d = static_cast<float>(means[x] - meansThere[there]);
                out[x] = table.at((ex * ex + ey * ey) * led.perDistance[i] + d * d * perDifference);
            }
        }
    });
    return trust;
}

} // namespace

TrustBothWays trustOf(const cv::Mat& forward, const cv::Mat& backward, const cv::Mat& a, const cv::Mat& b,
                      int pixels) {
    const cv::Mat meansA = meansOf(a);
    const cv::Mat meansB = meansOf(b);
    const float nearest = 0.5F / static_cast<float>(pixels);
    return {oneWay(forward, backward, meansA, meansB, nearest),
            oneWay(backward, forward, meansB, meansA, nearest)};
}

} // namespace yarngap
