#include "core/inspection/frame_look.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace yarngap {

namespace {

constexpr int cellsAcross = 160;
constexpr int cellsDown = 90;

/// Row `y` of the luma in sixteenths of an 8-bit step.
void luma(const Image& frame, int y, std::vector<int>& out) {
    const auto width = static_cast<std::size_t>(frame.width());
    out.resize(width);
    if (frame.layout().isFloat()) {
        const auto row = frame.row<float>(0, y);
        for (std::size_t x = 0; x < width; ++x)
            out[x] = static_cast<int>(std::clamp(row[x], 0.0F, 1.0F) * 255.0F * 16.0F);
    } else if (frame.layout().bytesPerSample() == 2) {
        const auto row = frame.row<std::uint16_t>(0, y);
        const int shift = frame.layout().depth - 8; // to 8 bits, times 16
        for (std::size_t x = 0; x < width; ++x)
            out[x] = (int{row[x]} << 4) >> shift;
    } else {
        const auto row = frame.row<std::uint8_t>(0, y);
        for (std::size_t x = 0; x < width; ++x)
            out[x] = int{row[x]} << 4;
    }
}

} // namespace

FrameLook lookOf(const Image& frame) {
    FrameLook look;
    const int width = frame.width();
    const int height = frame.height();
    look.width = std::min(cellsAcross, width);
    look.height = std::min(cellsDown, height);
    const auto cells = static_cast<std::size_t>(look.width) * static_cast<std::size_t>(look.height);
    std::vector<std::uint64_t> sums(cells);
    std::vector<std::uint32_t> counts(cells);
    std::vector<std::size_t> column(static_cast<std::size_t>(width));
    for (int x = 0; x < width; ++x)
        column[static_cast<std::size_t>(x)] =
            static_cast<std::size_t>(std::int64_t{x} * look.width / std::max(1, width));
    std::vector<int> above;
    std::vector<int> here;
    std::vector<int> below;
    luma(frame, 0, here);
    above = here;
    std::uint64_t bends = 0;
    for (int y = 0; y < height; ++y) {
        luma(frame, std::min(height - 1, y + 1), below);
        std::uint32_t rowBends = 0;
        for (std::size_t x = 1; x + 1 < here.size(); ++x) {
            const int twice = 2 * here[x];
            rowBends += static_cast<std::uint32_t>(std::abs(here[x - 1] + here[x + 1] - twice) +
                                                   std::abs(above[x] + below[x] - twice));
        }
        bends += rowBends;
        const auto first = static_cast<std::size_t>(std::int64_t{y} * look.height / height) *
                           static_cast<std::size_t>(look.width);
        for (std::size_t x = 0; x < here.size(); ++x) {
            sums[first + column[x]] += static_cast<std::uint64_t>(here[x]);
            ++counts[first + column[x]];
        }
        std::swap(above, here);
        std::swap(here, below);
    }
    const double pixels = std::max(1.0, static_cast<double>(width - 2) * height);
    look.sharpness = static_cast<double>(bends) / (2 * 16 * pixels);
    look.small.resize(cells);
    for (std::size_t i = 0; i < cells; ++i)
        look.small[i] = static_cast<std::uint16_t>(sums[i] / std::max<std::uint32_t>(1, counts[i]));
    return look;
}

double changeBetween(const FrameLook& a, const FrameLook& b) {
    if (a.small.size() != b.small.size() || a.small.empty() || a.width != b.width) return 0;
    std::uint64_t sum = 0;
    for (std::size_t i = 0; i < a.small.size(); ++i)
        sum += static_cast<std::uint64_t>(std::abs(int{a.small[i]} - int{b.small[i]}));
    return static_cast<double>(sum) / (16.0 * static_cast<double>(a.small.size()));
}

} // namespace yarngap
