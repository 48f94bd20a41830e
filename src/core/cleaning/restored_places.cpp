#include "core/cleaning/restored_places.h"

#include "core/error.h"
#include "core/image/sample_types.h"

#include <algorithm>
#include <cstdint>

namespace yarngap {

namespace {

/// How much of each pixel comes from the other picture, in thirds.
class Weights {
  public:
    Weights(int width, int height, const std::vector<DamagedPlace>& places)
        : width_(width)
        , height_(height)
        , thirds_(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0) {
        for (const DamagedPlace& place : places)
            forEach(place, [this](int x, int y) { at(x, y) = 3; });
        const std::vector<std::uint8_t> covered = thirds_;
        const auto isCovered = [&](int x, int y) {
            if (x < 0 || y < 0 || x >= width_ || y >= height_) return true;
            return covered[indexOf(x, y)] != 0;
        };
        const auto within = [&](int x, int y, int by) {
            return isCovered(x - by, y) && isCovered(x + by, y) && isCovered(x, y - by) &&
                   isCovered(x, y + by);
        };
        constexpr int wide = 8;
        for (const DamagedPlace& place : places)
            if (std::min(place.width, place.height) >= wide)
                forEach(place, [&](int x, int y) {
                    at(x, y) = !within(x, y, 1) ? 1 : !within(x, y, 2) ? 2 : 3;
                });
        for (const DamagedPlace& place : places) // narrow ones lie on top
            if (std::min(place.width, place.height) < wide)
                forEach(place, [this](int x, int y) { at(x, y) = 3; });
    }

    /// Of a sample of a plane with this subsampling: of its pixels the greatest.
    [[nodiscard]] int of(int x, int y, int shiftX, int shiftY) const {
        int most = 0;
        for (int py = y << shiftY; py < std::min(height_, (y + 1) << shiftY); ++py)
            for (int px = x << shiftX; px < std::min(width_, (x + 1) << shiftX); ++px)
                most = std::max<int>(most, thirds_[indexOf(px, py)]);
        return most;
    }

  private:
    [[nodiscard]] std::size_t indexOf(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x);
    }
    std::uint8_t& at(int x, int y) { return thirds_[indexOf(x, y)]; }
    template <typename Visit>
    void forEach(const DamagedPlace& place, Visit visit) const {
        const auto end = [](int begin, int size, int limit) {
            return static_cast<int>(std::min<std::int64_t>(limit, std::int64_t{begin} + size));
        };
        const int right = end(place.x, place.width, width_);
        const int bottom = end(place.y, place.height, height_);
        for (int y = std::max(0, place.y); y < bottom; ++y)
            for (int x = std::max(0, place.x); x < right; ++x)
                visit(x, y);
    }

    int width_, height_;
    std::vector<std::uint8_t> thirds_;
};

template <typename Sample>
void mixPlane(Image& out, const Image& other, int p, const Weights& weights) {
    const PixelLayout& layout = out.layout();
    const int shiftX = layout.isChroma(p) ? layout.chromaShiftX : 0;
    const int shiftY = layout.isChroma(p) ? layout.chromaShiftY : 0;
    const auto limit = static_cast<float>(layout.maxValue());
    for (int y = 0; y < out.plane(p).height; ++y) {
        const auto to = out.row<Sample>(p, y);
        const auto from = other.row<Sample>(p, y);
        for (int x = 0; x < out.plane(p).width; ++x) {
            const int thirds = weights.of(x, y, shiftX, shiftY);
            if (thirds == 0) continue;
            const auto i = static_cast<std::size_t>(x);
            const float share = static_cast<float>(thirds) / 3;
            to[i] = thirds == 3 ? from[i]
                                : sampleOf<Sample>(static_cast<float>(to[i]) * (1 - share) +
                                                       static_cast<float>(from[i]) * share,
                                                   limit);
        }
    }
}

} // namespace

Image withPlacesFrom(const Image& frame, const Image& other, const std::vector<DamagedPlace>& places) {
    if (frame.width() != other.width() || frame.height() != other.height() ||
        frame.layout() != other.layout())
        throw Error("A frame cannot be restored from frames of another size or pixel format.");
    const Weights weights(frame.width(), frame.height(), places);
    Image out = frame;
    for (int p = 0; p < out.planeCount(); ++p)
        withSampleType(out.layout(),
                       [&](auto sample) { mixPlane<decltype(sample)>(out, other, p, weights); });
    return out;
}

} // namespace yarngap
