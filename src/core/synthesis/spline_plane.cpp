#include "core/synthesis/spline_plane.h"

#include "core/image/sample_types.h"
#include "core/widest.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <vector>

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

/// Turns n columns of `height` > 1 samples, rows `stride` apart, into weights of the spline through each.
/// `first`: the first weights of the forward pass.
YARNGAP_WIDEST void filterDown(float* columns, std::size_t stride, int n, int height, const float* first) {
    std::memcpy(columns, first, static_cast<std::size_t>(n) * sizeof *first);
    for (int y = 1; y < height; ++y) {
        float* here = columns + static_cast<std::size_t>(y) * stride;
        const float* above = here - stride;
#pragma GCC ivdep
        for (int x = 0; x < n; ++x)
            here[x] += pole * above[x];
    }
    float* last = columns + static_cast<std::size_t>(height - 1) * stride;
    for (int x = 0; x < n; ++x)
        last[x] = gain * lastWeight(last[x - static_cast<std::ptrdiff_t>(stride)], last[x]);
    constexpr float back = -pole * gain; // the rows below have their gain already
    for (int y = height - 2; y >= 0; --y) {
        float* here = columns + static_cast<std::size_t>(y) * stride;
        const float* below = here + stride;
#pragma GCC ivdep
        for (int x = 0; x < n; ++x)
            here[x] = pole * below[x] + back * here[x];
    }
}

/// Rows that are filtered side by side, since each step of one waits for the step before.
constexpr int sideBySide = 16;

/// Copies n rows of `width` samples, `stride` apart, into columns of rows of `sideBySide`.
[[gnu::always_inline]] inline void turn(const float* rows, std::size_t stride, int n, int width,
                                        float* columns) {
    for (int x = 0; x < width; ++x, columns += sideBySide, ++rows)
        for (int r = 0; r < n; ++r)
            columns[r] = rows[static_cast<std::size_t>(r) * stride];
}

[[gnu::always_inline]] inline void turnBack(const float* columns, std::size_t stride, int n, int width,
                                            float* rows) {
    for (int x = 0; x < width; ++x, columns += sideBySide, ++rows)
        for (int r = 0; r < n; ++r)
            rows[static_cast<std::size_t>(r) * stride] = columns[r];
}

/// Filters n rows of `width` samples, `stride` apart; `columns` has room for `sideBySide` of them.
[[gnu::always_inline]] inline void filterSome(float* rows, std::size_t stride, int n, int width,
                                              float* columns) {
    std::array<float, sideBySide> first{};
    turn(rows, stride, n, width, columns);
    for (int r = 0; r < n; ++r)
        first[static_cast<std::size_t>(r)] =
            firstWeight(width, [&](int x) { return columns[x * sideBySide + r]; });
    filterDown(columns, sideBySide, sideBySide, width, first.data());
    turnBack(columns, stride, n, width, rows);
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
            const Four weights = ((cubes * f + squares) * f + firsts) * f + atSample; // of cubic B-splines
            std::memcpy(made[i].data(), &weights, sizeof weights);
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
    const auto blocks = tbb::blocked_range<int>(0, (height_ + sideBySide - 1) / sideBySide);
    tbb::parallel_for(blocks, [&](const tbb::blocked_range<int>& some) {
        std::vector<float> columns(static_cast<std::size_t>(width_) * sideBySide);
        for (int block = some.begin(); block < some.end(); ++block) {
            float* rows = row(block * sideBySide);
            const int n = height_ - block * sideBySide;
            if (n < sideBySide)
                filterSome(rows, stride_, n, width_, columns.data());
            else
                filterSome(rows, stride_, sideBySide, width_, columns.data());
        }
    });
}

void SplinePlane::filterColumns() {
    constexpr int grain = 64; // side by side, so that whole rows are worked on
    tbb::parallel_for(tbb::blocked_range<int>(0, width_, grain), [&](const tbb::blocked_range<int>& columns) {
        std::vector<float> first(columns.size());
        for (int x = columns.begin(); x < columns.end(); ++x)
            first[static_cast<std::size_t>(x - columns.begin())] =
                firstWeight(height_, [&](int k) { return row(k)[x]; });
        filterDown(row(0) + columns.begin(), stride_, static_cast<int>(columns.size()), height_,
                   first.data());
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
