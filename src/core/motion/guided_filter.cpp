#include "core/motion/guided_filter.h"

#include "core/widest.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstdint>
#include <vector>

namespace yarngap {

namespace {

int mirroredAt(int i, int n) {
    if (n == 1) return 0;
    const int period = 2 * n;
    i = ((i % period) + period) % period;
    return i < n ? i : period - 1 - i;
}

/// Sums over squares of two planes at once, which are handed over row by row.
class TwoSums {
  public:
    TwoSums(int width, int radius)
        : radius_(radius)
        , first_(static_cast<std::size_t>(width + 2 * radius + 1))
        , second_(first_.size())
        , width_(width) {}

    /// Columns of sums, of `width` pixels.
    [[nodiscard]] double* first() { return first_.data() + radius_ + 1; }
    [[nodiscard]] double* second() { return second_.data() + radius_ + 1; }

    /// Calls take(x, sum of the first, sum of the second) along a row.
    template <typename Take>
    void along(Take take) {
        mirror(first());
        mirror(second());
        const double* a = first();
        const double* b = second();
        double sumA = 0;
        double sumB = 0;
        for (int x = -radius_ - 1; x < radius_; ++x) {
            sumA += a[x];
            sumB += b[x];
        }
        for (int x = 0; x < width_; ++x) {
            sumA += a[x + radius_] - a[x - radius_ - 1];
            sumB += b[x + radius_] - b[x - radius_ - 1];
            take(x, sumA, sumB);
        }
    }

  private:
    void mirror(double* columns) const {
        columns[-radius_ - 1] = 0; // leaves the sum at the first pixel
        for (int i = 1; i <= radius_; ++i) {
            columns[-i] = columns[mirroredAt(-i, width_)];
            columns[width_ - 1 + i] = columns[mirroredAt(width_ - 1 + i, width_)];
        }
    }

    int radius_;
    std::vector<double> first_, second_;
    int width_;
};

/// Rows in bands of fixed height, each with sums of its own, so that neither the number of cores nor what was
/// rounded far above matters. `change(row, sign, sums)` adds a row of the planes or takes it away; `use(y,
/// sums)` takes the sums.
template <typename Change, typename Use>
void eachRow(const cv::Size& size, int radius, Change change, Use use) {
    constexpr int band = 64;
    tbb::parallel_for(0, (size.height + band - 1) / band, [&](int index) {
        const int begin = index * band;
        const int end = std::min(size.height, begin + band);
        TwoSums sums(size.width, radius);
        for (int y = begin - radius; y < begin + radius; ++y)
            change(mirroredAt(y, size.height), 1, sums);
        for (int y = begin; y < end; ++y) {
            change(mirroredAt(y + radius, size.height), 1, sums);
            use(y, sums);
            change(mirroredAt(y - radius, size.height), -1, sums);
        }
    });
}

YARNGAP_WIDEST void addProducts(const std::uint8_t* guide, const float* plane, double sign, int n,
                                double* products, double* sums) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        const double value = sign * static_cast<double>(plane[x]);
        products[x] += value * static_cast<double>(guide[x]);
        sums[x] += value;
    }
}

YARNGAP_WIDEST void addSquares(const std::uint8_t* guide, double sign, int n, double* squares, double* sums) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        const double value = static_cast<double>(guide[x]);
        squares[x] += sign * value * value;
        sums[x] += sign * value;
    }
}

YARNGAP_WIDEST void addBoth(const float* a, const float* b, double sign, int n, double* sumsA,
                            double* sumsB) {
#pragma GCC ivdep
    for (int x = 0; x < n; ++x) {
        sumsA[x] += sign * static_cast<double>(a[x]);
        sumsB[x] += sign * static_cast<double>(b[x]);
    }
}

double pixelsIn(int radius) {
    const double side = 2 * radius + 1;
    return side * side;
}

} // namespace

GuidedFilter::GuidedFilter(const cv::Mat& picture, int radius, float smooth)
    : radius_(radius)
    , guide_(picture)
    , mean_(picture.size(), CV_32F)
    , inverse_(picture.size(), CV_32F) {
    const double part = 1 / pixelsIn(radius);
    eachRow(
        picture.size(), radius,
        [&](int y, double sign, TwoSums& sums) {
            addSquares(guide_.ptr<std::uint8_t>(y), sign, guide_.cols, sums.first(), sums.second());
        },
        [&](int y, TwoSums& sums) {
            auto* mean = mean_.ptr<float>(y);
            auto* inverse = inverse_.ptr<float>(y);
            sums.along([&](int x, double squares, double sum) {
                const double m = part * sum;
                mean[x] = static_cast<float>(m);
                inverse[x] = static_cast<float>(1 / (part * squares - m * m + static_cast<double>(smooth)));
            });
        });
}

cv::Mat GuidedFilter::operator()(const cv::Mat& plane) const {
    const cv::Size size = guide_.size();
    const double part = 1 / pixelsIn(radius_);
    cv::Mat slope(size, CV_32F);
    cv::Mat offset(size, CV_32F);
    eachRow(
        size, radius_,
        [&](int y, double sign, TwoSums& sums) {
            addProducts(guide_.ptr<std::uint8_t>(y), plane.ptr<float>(y), sign, size.width, sums.first(),
                        sums.second());
        },
        [&](int y, TwoSums& sums) {
            const auto* mean = mean_.ptr<float>(y);
            const auto* inverse = inverse_.ptr<float>(y);
            auto* a = slope.ptr<float>(y);
            auto* b = offset.ptr<float>(y);
            sums.along([&](int x, double products, double sum) {
                const auto average = static_cast<float>(part * sum);
                a[x] = (static_cast<float>(part * products) - mean[x] * average) * inverse[x];
                b[x] = average - a[x] * mean[x];
            });
        });
    cv::Mat out(size, CV_32F);
    eachRow(
        size, radius_,
        [&](int y, double sign, TwoSums& sums) {
            addBoth(slope.ptr<float>(y), offset.ptr<float>(y), sign, size.width, sums.first(), sums.second());
        },
        [&](int y, TwoSums& sums) {
            const auto* guide = guide_.ptr<std::uint8_t>(y);
            auto* to = out.ptr<float>(y);
            sums.along([&](int x, double slopes, double offsets) {
                to[x] = static_cast<float>(part * (slopes * static_cast<double>(guide[x]) + offsets));
            });
        });
    return out;
}

} // namespace yarngap
