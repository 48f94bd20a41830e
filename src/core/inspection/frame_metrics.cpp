#include "core/inspection/frame_metrics.h"

#include "core/image/scene_light.h"

#include <opencv2/core/hal/intrin.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>

namespace yarngap {

namespace {

constexpr int blockSide = 32;
constexpr int stripe = 16; // samples kept or skipped together in wide pictures
constexpr int wide = 512;  // from this width on, every second stripe is skipped
constexpr std::uint8_t combFree = 4;
constexpr double largestFloor = 3.0;
constexpr std::size_t mostCombed = 256;

/// Σ of how far p stands out from both a and b, less combFree.
std::uint32_t combSum(const std::uint8_t* p, const std::uint8_t* a, const std::uint8_t* b, int count) {
    std::uint32_t sum = 0;
    int i = 0;
#if CV_SIMD128
    const cv::v_uint8x16 none = cv::v_setzero_u8();
    const cv::v_uint8x16 free = cv::v_setall_u8(combFree);
    for (; i + 16 <= count; i += 16) {
        const cv::v_uint8x16 here = cv::v_load(p + i);
        const cv::v_uint8x16 above = cv::v_load(a + i);
        const cv::v_uint8x16 below = cv::v_load(b + i);
        // Subtraction of bytes saturates at 0.
        const cv::v_uint8x16 out = (here - cv::v_max(above, below)) | (cv::v_min(above, below) - here);
        sum += cv::v_reduce_sad(out - free, none);
    }
#endif
    for (; i < count; ++i) {
        const int high = std::max(a[i], b[i]);
        const int low = std::min(a[i], b[i]);
        const int out = std::max({p[i] - high, low - p[i], 0});
        sum += static_cast<std::uint32_t>(std::max(out - combFree, 0));
    }
    return sum;
}

std::uint32_t absoluteDifference(const std::uint8_t* a, const std::uint8_t* b, int count) {
    std::uint32_t sum = 0;
    int i = 0;
#if CV_SIMD128
    for (; i + 16 <= count; i += 16)
        sum += cv::v_reduce_sad(cv::v_load(a + i), cv::v_load(b + i));
#endif
    for (; i < count; ++i)
        sum += static_cast<std::uint32_t>(std::abs(a[i] - b[i]));
    return sum;
}

std::uint32_t secondDifference(const std::uint8_t* p, int count) {
    std::uint32_t sum = 0;
    for (int i = 1; i + 1 < count; ++i)
        sum += static_cast<std::uint32_t>(std::abs(2 * p[i] - p[i - 1] - p[i + 1]));
    return sum;
}

} // namespace

void FrameMeter::fill(Luma& luma, const Image& frame) {
    const int w = frame.width();
    const bool skip = w >= wide;
    luma.width = skip ? w / (2 * stripe) * stripe : w;
    luma.height = frame.height();
    luma.samples.resize(static_cast<std::size_t>(luma.width) * static_cast<std::size_t>(luma.height));
    const int shift = frame.layout().depth - 8;
    tbb::parallel_for(0, luma.height, [&](int y) {
        std::uint8_t* out =
            luma.samples.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(luma.width);
        const auto take = [&](const auto* in) {
            const auto copy = [&](int from, int count, int to) {
                if constexpr (sizeof(*in) == 1)
                    std::memcpy(out + to, in + from, static_cast<std::size_t>(count));
                else
                    for (int i = 0; i < count; ++i)
                        out[to + i] = static_cast<std::uint8_t>(in[from + i] >> shift);
            };
            if (!skip)
                copy(0, w, 0);
            else
                for (int x = 0; x < luma.width; x += stripe)
                    copy(2 * x, stripe, x);
        };
        if (shift == 0)
            take(frame.row<std::uint8_t>(0, y).data());
        else
            take(frame.row<std::uint16_t>(0, y).data());
    });
}

void FrameMeter::comb(int x, int y0, BlockSums& sums) const {
    const int count = std::min(blockSide, now_.width - x);
    const int end = std::min(now_.height - 1, y0 + blockSide);
    for (int y = std::max(1, y0); y < end; ++y) {
        const bool top = y % 2 == 0;
        const std::uint8_t* now = now_.row(y) + x;
        const std::uint8_t* before = before_.row(y) + x;
        const std::uint8_t* nowAbove = now_.row(y - 1) + x;
        const std::uint8_t* nowBelow = now_.row(y + 1) + x;
        const std::uint32_t onBefore = combSum(now, before_.row(y - 1) + x, before_.row(y + 1) + x, count);
        const std::uint32_t beforeOn = combSum(before, nowAbove, nowBelow, count);
        sums.own += combSum(now, nowAbove, nowBelow, count);
        sums.topOnBefore += top ? onBefore : beforeOn;
        sums.bottomOnBefore += top ? beforeOn : onBefore;
    }
}

FrameMetrics FrameMeter::measure(const Image& frame) {
    if (frame.layout().isFloat()) return measure(encodeLight(frame, LightCurve::analysis));
    std::swap(now_, before_);
    fill(now_, frame);
    if (before_.width != now_.width || before_.height != now_.height) before_ = now_;
    const int w = now_.width;
    const int h = now_.height;
    const int columns = std::max(1, (w + blockSide - 1) / blockSide);
    const int rows = std::max(1, (h + blockSide - 1) / blockSide);
    std::vector<BlockSums> blocks(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows));
    std::vector<std::uint32_t> sharp(static_cast<std::size_t>(rows));

    tbb::parallel_for(0, rows, [&](int row) {
        BlockSums* line = blocks.data() + static_cast<std::size_t>(row) * static_cast<std::size_t>(columns);
        const int end = std::min(h, (row + 1) * blockSide);
        for (int y = row * blockSide; y < end; ++y) {
            const std::uint8_t* now = now_.row(y);
            const std::uint8_t* before = before_.row(y);
            for (int c = 0; c < columns; ++c) {
                const int x = c * blockSide;
                const std::uint32_t change =
                    absoluteDifference(now + x, before + x, std::min(blockSide, w - x));
                (y % 2 == 0 ? line[c].top : line[c].bottom) += change;
            }
            if (y % 4 == 0) sharp[static_cast<std::size_t>(row)] += secondDifference(now, w);
        }
    });

    FrameMetrics m;
    const double pixels = static_cast<double>(w) * h;
    std::vector<double> changes;
    changes.reserve(blocks.size());
    const auto areaOf = [&](std::size_t i) {
        const int c = static_cast<int>(i) % columns;
        const int r = static_cast<int>(i) / columns;
        return static_cast<double>(std::min(blockSide, w - c * blockSide)) *
               std::min(blockSide, h - r * blockSide);
    };
    double total = 0;
    for (std::size_t i = 0; i < blocks.size(); ++i) {
        total += blocks[i].top + blocks[i].bottom;
        changes.push_back((blocks[i].top + blocks[i].bottom) / areaOf(i));
    }
    m.meanChange = total / pixels;
    std::vector<double> sorted = changes;
    std::sort(sorted.begin(), sorted.end());
    m.floor = std::min(largestFloor, sorted[sorted.size() / 20]);
    for (std::size_t i = 0; i < changes.size(); ++i) {
        const std::size_t column =
            i % static_cast<std::size_t>(columns) * 16 / static_cast<std::size_t>(columns);
        const std::size_t row = i / static_cast<std::size_t>(columns) * 9 / static_cast<std::size_t>(rows);
        auto& cell = m.cells.at(row * 16 + column);
        cell = std::max(cell, static_cast<std::uint8_t>(std::clamp(4 * (changes[i] - m.floor), 0.0, 255.0)));
    }
    const std::size_t peaks = std::max<std::size_t>(1, sorted.size() / 50);
    for (std::size_t i = 0; i < peaks; ++i)
        m.peakChange += sorted[sorted.size() - 1 - i] / static_cast<double>(peaks);

    double area = 0;
    const double moving = m.floor * 1.8 + 0.8;
    std::vector<std::size_t> movers;
    for (std::size_t i = 0; i < blocks.size(); ++i) {
        const BlockSums& b = blocks[i];
        const double half = areaOf(i) / 2;
        if (std::max(b.top, b.bottom) / half < moving) continue;
        area += 2 * half;
        m.topChange += std::max(0.0, b.top - m.floor * half);
        m.bottomChange += std::max(0.0, b.bottom - m.floor * half);
        movers.push_back(i);
    }
    if (area > 0) {
        m.topChange /= area;
        m.bottomChange /= area;
    }
    m.movingShare = area / pixels;

    // Combing is looked for where something moves; a few hundred places tell as much as all.
    const std::size_t every = (movers.size() + mostCombed - 1) / mostCombed;
    std::vector<std::size_t> combed;
    for (std::size_t i = 0; i < movers.size(); i += every)
        combed.push_back(movers[i]);
    tbb::parallel_for(std::size_t{0}, combed.size(), [&](std::size_t i) {
        const int c = static_cast<int>(combed[i]) % columns;
        const int r = static_cast<int>(combed[i]) / columns;
        comb(c * blockSide, r * blockSide, blocks[combed[i]]);
    });
    double combedArea = 0;
    for (const std::size_t i : combed) {
        combedArea += areaOf(i);
        m.combOwn += blocks[i].own;
        m.combTopOnBefore += blocks[i].topOnBefore;
        m.combBottomOnBefore += blocks[i].bottomOnBefore;
    }
    if (combedArea > 0)
        for (double* v : {&m.combOwn, &m.combTopOnBefore, &m.combBottomOnBefore})
            *v /= combedArea;

    double sharpness = 0;
    for (const std::uint32_t s : sharp)
        sharpness += s;
    m.sharpness = sharpness / std::max(1.0, pixels / 4);
    std::array<std::uint32_t, 64> counts{};
    std::array<std::uint32_t, 64> tileSums{};
    std::array<std::uint32_t, 64> tileCounts{};
    const int step = std::max(1, h / 128); // some 128 lines tell as much as all
    std::uint32_t seen = 0;
    std::vector<std::uint8_t> tileOf(static_cast<std::size_t>(w));
    for (int x = 0; x < w; ++x)
        tileOf[static_cast<std::size_t>(x)] = static_cast<std::uint8_t>(x * 8 / w);
    for (int y = 0; y < h; y += step) {
        const std::uint8_t* p = now_.row(y);
        const auto tileRow = static_cast<std::size_t>(y * 8 / h) * 8;
        for (int x = 0; x < w; x += 2) {
            const auto tile = tileRow + tileOf[static_cast<std::size_t>(x)];
            ++counts[static_cast<std::size_t>(p[x] >> 2)];
            tileSums[tile] += p[x];
            ++tileCounts[tile];
            ++seen;
        }
    }
    double luma = 0;
    for (std::size_t i = 0; i < 64; ++i) {
        m.histogram[i] = static_cast<float>(counts[i]) / static_cast<float>(seen);
        m.tiles[i] =
            tileCounts[i] ? static_cast<float>(tileSums[i]) / static_cast<float>(tileCounts[i]) : 0.0F;
        luma += tileSums[i];
    }
    m.meanLuma = luma / seen;
    return m;
}

} // namespace yarngap
