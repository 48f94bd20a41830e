#include "core/inspection/frame_metrics.h"

#include "core/image/scene_light.h"

#include <opencv2/core/hal/intrin.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <numeric>

namespace yarngap {

namespace {

constexpr int blockSide = 32;
constexpr int stripe = 16; // samples kept or skipped together in wide pictures
constexpr int wide = 512;  // from this width on, every second stripe is skipped
constexpr double largestFloor = 3.0;
constexpr double largestNoise = 16.0;   // mean square change
constexpr std::size_t mostPlaced = 256; // blocks; a few hundred places tell as much as all

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

void FrameMeter::PlaceSums::addRow(double rowAlong, double rowSquares, int count) {
    along += rowAlong;
    squares += rowSquares;
    samples += count;
    alongAlong += rowAlong * rowAlong;
    alongSquares += rowAlong * rowSquares;
    squaresSquares += rowSquares * rowSquares;
    rowSamples = count;
    ++rows;
}

FrameMeter::FieldSums FrameMeter::fieldSums(int x, int y0) const {
    FieldSums sums;
    const int count = std::min(blockSide, now_.width - x);
    const int end = std::min(now_.height - 1, y0 + blockSide);
    for (int y = std::max(1, y0); y < end; ++y) {
        const std::uint8_t* own = now_.row(y) + x;
        const std::uint8_t* nowAbove = now_.row(y - 1) + x;
        const std::uint8_t* nowBelow = now_.row(y + 1) + x;
        const std::uint8_t* thenAbove = before_.row(y - 1) + x;
        const std::uint8_t* thenBelow = before_.row(y + 1) + x;
        int along = 0;
        int squares = 0;
        for (int i = 0; i < count; ++i) { // twice each sample, so that means stay whole
            const int p = thenAbove[i] + thenBelow[i];
            const int way = nowAbove[i] + nowBelow[i] - p;
            along += (2 * own[i] - p) * way;
            squares += way * way;
        }
        PlaceSums& of = y % 2 == 0 ? sums.top : sums.bottom;
        of.addRow(along / 4.0, squares / 4.0, count);
    }
    return sums;
}

namespace {

/// Rows of one thing say much the same.
constexpr double rowsAlike = 2;

/// Σ over rows of (along − at · squares + k · samples)².
template <typename Sums>
double spreadOf(const Sums& s, double at, double k) {
    const double n = s.rowSamples;
    return s.alongAlong - 2 * at * s.alongSquares + at * at * s.squaresSquares +
           2 * k * n * (s.along - at * s.squares) + k * k * n * n * s.rows;
}

} // namespace

void FrameMeter::placeFields(FrameMetrics& m, const std::vector<std::size_t>& movers,
                             const std::vector<std::size_t>& still, int columns) const {
    const auto sumsOf = [&](const std::vector<std::size_t>& places, std::size_t every) {
        std::vector<FieldSums> sums((places.size() + every - 1) / every);
        tbb::parallel_for(std::size_t{0}, sums.size(), [&](std::size_t i) {
            const int block = static_cast<int>(places[i * every]);
            sums[i] = fieldSums(block % columns * blockSide, block / columns * blockSide);
        });
        return sums;
    };
    // What changes where nothing moves is noise, and is half as much there in each mean of two lines.
    double squares = 0;
    double samples = 0;
    for (const FieldSums& sums : sumsOf(still, std::max<std::size_t>(1, still.size() / mostPlaced))) {
        squares += sums.top.squares + sums.bottom.squares;
        samples += sums.top.samples + sums.bottom.samples;
    }
    m.noiseEnergy = samples > 0 ? std::min(largestNoise, squares / samples) : 0;
    if (movers.empty()) return;
    const auto sums = sumsOf(movers, (movers.size() + mostPlaced - 1) / mostPlaced);
    const double noise = m.noiseEnergy;
    const auto place = [&](PlaceSums FieldSums::*of) -> FieldPlace {
        double along = 0;
        double moved = 0;
        for (const FieldSums& s : sums) {
            along += (s.*of).along - noise / 2 * (s.*of).samples;
            moved += (s.*of).squares - noise * (s.*of).samples;
        }
        if (moved <= 0) return {0, -1};
        const double at = along / moved;
        double spread = 0;
        for (const FieldSums& s : sums)
            spread += spreadOf(s.*of, at, noise * (at - 0.5));
        return {at, rowsAlike * std::sqrt(std::max(0.0, spread)) / moved};
    };
    m.bottomPlace = place(&FieldSums::bottom);
    m.topPlace = place(&FieldSums::top);
    double count = 0;
    double spread = 0;
    for (const FieldSums& s : sums) {
        // Between top fields lie the bottom lines, and the other way round.
        m.topEnergy += s.bottom.squares - noise * s.bottom.samples;
        m.bottomEnergy += s.top.squares - noise * s.top.samples;
        count += s.bottom.samples + s.top.samples;
    }
    m.topEnergy *= 2 / std::max(1.0, count);
    m.bottomEnergy *= 2 / std::max(1.0, count);
    const double mean = noise + (m.topEnergy + m.bottomEnergy) / 2;
    for (const FieldSums& s : sums)
        for (const PlaceSums* of : {&s.bottom, &s.top})
            spread += of->squaresSquares - 2 * mean * of->rowSamples * of->squares +
                      mean * mean * of->rowSamples * of->rowSamples * of->rows;
    m.energyDeviation = rowsAlike * std::sqrt(std::max(0.0, spread)) / std::max(1.0, count);
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

    std::vector<std::size_t> byChange(blocks.size());
    std::iota(byChange.begin(), byChange.end(), std::size_t{0});
    const std::size_t stillest = std::max<std::size_t>(1, blocks.size() / 20);
    std::nth_element(byChange.begin(), byChange.begin() + static_cast<std::ptrdiff_t>(stillest - 1),
                     byChange.end(), [&](std::size_t i, std::size_t j) { return changes[i] < changes[j]; });
    byChange.resize(stillest);
    placeFields(m, movers, byChange, columns);

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
