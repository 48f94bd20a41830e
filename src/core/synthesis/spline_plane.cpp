#include "core/synthesis/spline_plane.h"

#include "core/image/sample_types.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

namespace yarngap {

namespace {

constexpr float pole = -0.267949192F; // √3 − 2
constexpr float gain = 6.0F;          // (1 − pole)(1 − 1/pole)
constexpr int reach = 16;             // pole^16 is below what a float tells apart

/// First weight of the forward pass over `n` samples `s(0)` … `s(n − 1)` mirrored at both ends, before the
/// gain.
template <typename SampleAt>
float firstWeight(int n, const SampleAt& s) {
    if (n > reach) {
        float sum = s(0);
        float power = pole;
        for (int k = 1; k < reach; ++k, power *= pole)
            sum += power * s(k);
        return sum;
    }
    float power = pole;
    float fromEnd = std::pow(pole, static_cast<float>(n - 1));
    float sum = s(0) + fromEnd * s(n - 1);
    fromEnd *= fromEnd / pole;
    for (int k = 1; k < n - 1; ++k, power *= pole, fromEnd /= pole)
        sum += (power + fromEnd) * s(k);
    return sum / (1.0F - power * power);
}

float lastWeight(float beforeLast, float last) {
    return pole / (pole * pole - 1.0F) * (pole * beforeLast + last);
}

int mirrored(int i, int n) {
    if (n == 1) return 0;
    const int period = 2 * (n - 1);
    i = ((i % period) + period) % period;
    return i < n ? i : period - i;
}

} // namespace

const SplinePlane::WeightTable& SplinePlane::weightTable() {
    static const WeightTable table = [] {
        constexpr Four cubes{-1 / 6.0F, 3 / 6.0F, -3 / 6.0F, 1 / 6.0F};
        constexpr Four squares{3 / 6.0F, -6 / 6.0F, 3 / 6.0F, 0};
        constexpr Four firsts{-3 / 6.0F, 0, 3 / 6.0F, 0};
        constexpr Four atSample{1 / 6.0F, 4 / 6.0F, 1 / 6.0F, 0};
        WeightTable made;
        for (std::size_t i = 0; i < made.size(); ++i) {
            const float f = static_cast<float>(i) / static_cast<float>(fine);
            made[i] = ((cubes * f + squares) * f + firsts) * f + atSample;
        }
        return made;
    }();
    return table;
}

SplinePlane::SplinePlane(const Image& image, int p)
    : SplinePlane(image.plane(p).width, image.plane(p).height, [&](int y, float* row) {
        withSampleType(image.layout(), [&](auto sample) {
            using Sample = decltype(sample);
            const auto in = image.row<Sample>(p, y);
            std::transform(in.begin(), in.end(), row, [](Sample s) { return static_cast<float>(s); });
        });
    }) {}

SplinePlane::SplinePlane(int width, int height, const std::function<void(int, float*)>& fill)
    : table_(&weightTable())
    , width_(width)
    , height_(height)
    , stride_(static_cast<std::size_t>(width_ + before + after))
    , weights_(std::make_unique_for_overwrite<float[]>(stride_ *
                                                       static_cast<std::size_t>(height_ + before + after))) {
    tbb::parallel_for(0, height_, [&](int y) { fill(y, row(y)); });
    if (width_ > 1) filterRows();
    if (height_ > 1) filterColumns();
    mirrorEdges();
}

void SplinePlane::filterRows() {
    // Several rows at a time, since each step of one waits for the step before.
    constexpr int together = 8;
    tbb::parallel_for(0, (height_ + together - 1) / together, [&](int block) {
        const int first = block * together;
        const int rows = std::min(together, height_ - first);
        std::array<float*, together> s{};
        std::array<float, together> w{};
        for (int r = 0; r < rows; ++r) {
            const auto i = static_cast<std::size_t>(r);
            s[i] = row(first + r);
            w[i] = firstWeight(width_, [&](int k) { return s[i][k]; });
            s[i][0] = w[i];
        }
        for (int x = 1; x < width_; ++x)
            for (std::size_t i = 0; i < static_cast<std::size_t>(rows); ++i) {
                w[i] = s[i][x] + pole * w[i];
                s[i][x] = w[i];
            }
        for (std::size_t i = 0; i < static_cast<std::size_t>(rows); ++i) {
            w[i] = lastWeight(s[i][width_ - 2], s[i][width_ - 1]);
            s[i][width_ - 1] = gain * w[i];
        }
        for (int x = width_ - 2; x >= 0; --x)
            for (std::size_t i = 0; i < static_cast<std::size_t>(rows); ++i) {
                w[i] = pole * (w[i] - s[i][x]);
                s[i][x] = gain * w[i];
            }
    });
}

void SplinePlane::filterColumns() {
    // Columns side by side, so that whole rows are worked on.
    constexpr int grain = 64;
    tbb::parallel_for(tbb::blocked_range<int>(0, width_, grain), [&](const tbb::blocked_range<int>& columns) {
        for (int x = columns.begin(); x < columns.end(); ++x)
            row(0)[x] = firstWeight(height_, [&](int k) { return row(k)[x]; });
        for (int y = 1; y < height_; ++y) {
            const float* above = row(y - 1);
            float* here = row(y);
            for (int x = columns.begin(); x < columns.end(); ++x)
                here[x] += pole * above[x];
        }
        const float* beforeLast = row(height_ - 2);
        float* last = row(height_ - 1);
        for (int x = columns.begin(); x < columns.end(); ++x)
            last[x] = gain * lastWeight(beforeLast[x], last[x]);
        constexpr float back = -pole * gain; // the rows below have their gain already
        for (int y = height_ - 2; y >= 0; --y) {
            const float* below = row(y + 1);
            float* here = row(y);
            for (int x = columns.begin(); x < columns.end(); ++x)
                here[x] = pole * below[x] + back * here[x];
        }
    });
}

void SplinePlane::mirrorEdges() {
    tbb::parallel_for(0, height_, [&](int y) {
        float* line = row(y);
        line[-1] = line[mirrored(-1, width_)];
        for (int x = width_; x < width_ + after; ++x)
            line[x] = line[mirrored(x, width_)];
    });
    for (const int y : {-1, height_, height_ + 1})
        std::copy_n(row(mirrored(y, height_)) - before, stride_, row(y) - before);
}

} // namespace yarngap
