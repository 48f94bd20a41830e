#include "core/image/image.h"

#include "core/error.h"

#include <numeric>

namespace yarngap {

Image::Image(int width, int height, const PixelLayout& layout)
    : width_(width)
    , height_(height)
    , layout_(layout) {
    if (width < 1 || height < 1 || width > longestSide || height > longestSide ||
        std::int64_t{width} * height > maxPixels)
        throw Error("A picture of " + std::to_string(width) + " x " + std::to_string(height) +
                    " pixels cannot be worked on. Sizes from 1 x 1 to 268 million pixels can.");
    planes_.resize(static_cast<std::size_t>(layout.planeCount()));
    for (int p = 0; p < layout.planeCount(); ++p) {
        Plane& pl = plane(p);
        const int sx = layout.isChroma(p) ? layout.chromaShiftX : 0;
        const int sy = layout.isChroma(p) ? layout.chromaShiftY : 0;
        pl.width = (width + (1 << sx) - 1) >> sx;
        pl.height = (height + (1 << sy) - 1) >> sy;
        const std::size_t rowBytes =
            static_cast<std::size_t>(pl.width) * static_cast<std::size_t>(layout.bytesPerSample());
        pl.stride = (rowBytes + 63) / 64 * 64;
        pl.bytes.resize(pl.stride * static_cast<std::size_t>(pl.height) + 64);
    }
}

std::size_t Image::byteCount() const {
    return std::accumulate(planes_.begin(), planes_.end(), std::size_t{0},
                           [](std::size_t sum, const Plane& p) { return sum + p.bytes.size(); });
}

} // namespace yarngap
