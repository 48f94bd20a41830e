#include "core/cleaning/restored_places.h"

#include "core/cleaning/cleaned_frames.h"
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

/// By how much a frame is lighter beside a place than the other picture is there, for each line across the
/// place. Light flickers, and a narrow place that did not follow would show. Wide ones have soft edges.
class LightBeside {
  public:
    template <typename Sample>
    static LightBeside of(const Image& frame, const Image& other, int p, const DamagedPlace& place,
                          const Weights& weights, Sample /*type*/) {
        const PixelLayout& layout = frame.layout();
        const int shiftX = layout.isChroma(p) ? layout.chromaShiftX : 0;
        const int shiftY = layout.isChroma(p) ? layout.chromaShiftY : 0;
        LightBeside out;
        if (std::min(place.width, place.height) > easilyFilled) return out;
        out.isUpright_ = place.width <= place.height;
        const auto clamped = [](std::int64_t v, int limit) {
            return static_cast<int>(std::clamp<std::int64_t>(v, 0, limit));
        };
        const int width = frame.plane(p).width;
        const int height = frame.plane(p).height;
        const int left = clamped(place.x >> shiftX, width);
        const int top = clamped(place.y >> shiftY, height);
        const int right = clamped((std::int64_t{place.x} + place.width - 1) >> shiftX, width - 1);
        const int bottom = clamped((std::int64_t{place.y} + place.height - 1) >> shiftY, height - 1);
        out.first_ = out.isUpright_ ? top : left;
        const int last = out.isUpright_ ? bottom : right;
        const int begin = out.isUpright_ ? left : top;
        const int end = out.isUpright_ ? right : bottom;
        const int length = out.isUpright_ ? width : height;
        std::vector<double> sums{0};
        std::vector<double> counts{0};
        for (int line = out.first_; line <= last; ++line) {
            sums.push_back(sums.back());
            counts.push_back(counts.back());
            constexpr int beside = 5; // samples at each side
            for (int away = 1; away <= beside; ++away)
                for (const int at : {begin - away, end + away}) {
                    if (at < 0 || at >= length) continue;
                    const int x = out.isUpright_ ? at : line;
                    const int y = out.isUpright_ ? line : at;
                    if (weights.of(x, y, shiftX, shiftY) > 0) continue; // damaged as well
                    const auto i = static_cast<std::size_t>(x);
                    sums.back() += static_cast<double>(frame.row<Sample>(p, y)[i]) -
                                   static_cast<double>(other.row<Sample>(p, y)[i]);
                    counts.back() += 1;
                }
        }
        out.smooth(sums, counts, layout.maxValue() / 24.0);
        return out;
    }

    [[nodiscard]] float at(int x, int y) const {
        const auto i = static_cast<std::size_t>(std::max(0, (isUpright_ ? y : x) - first_));
        return lights_.empty() ? 0.F : lights_[std::min(i, lights_.size() - 1)];
    }

  private:
    /// Means over lines around each, no more than `most`: what differs further is another thing.
    void smooth(const std::vector<double>& sums, const std::vector<double>& counts, double most) {
        constexpr std::size_t reach = 24; // lines
        constexpr double fewest = 16;     // samples
        const std::size_t lines = sums.size() - 1;
        for (std::size_t i = 0; i < lines; ++i) {
            const std::size_t from = i - std::min(i, reach);
            const std::size_t to = std::min(lines, i + reach + 1);
            const double count = counts[to] - counts[from];
            const double light = count < fewest ? 0 : (sums[to] - sums[from]) / count;
            lights_.push_back(static_cast<float>(std::clamp(light, -most, most)));
        }
    }

    bool isUpright_ = true;
    int first_ = 0;
    std::vector<float> lights_;
};

template <typename Sample>
void mixPlane(Image& out, const Image& other, int p, const Weights& weights,
              const std::vector<DamagedPlace>& places) {
    const PixelLayout& layout = out.layout();
    const int shiftX = layout.isChroma(p) ? layout.chromaShiftX : 0;
    const int shiftY = layout.isChroma(p) ? layout.chromaShiftY : 0;
    const auto limit = static_cast<float>(layout.maxValue());
    std::vector<LightBeside> lights;
    lights.reserve(places.size());
    for (const DamagedPlace& place : places)
        lights.push_back(LightBeside::of(out, other, p, place, weights, Sample()));
    const Image before = out;
    for (std::size_t k = 0; k < places.size(); ++k) {
        const DamagedPlace& place = places[k];
        const auto end = [](int from, int size, int shift, int most) {
            return static_cast<int>(
                std::min<std::int64_t>(most, ((std::int64_t{from} + size - 1) >> shift) + 1));
        };
        const int right = end(place.x, place.width, shiftX, out.plane(p).width);
        const int bottom = end(place.y, place.height, shiftY, out.plane(p).height);
        for (int y = std::max(0, place.y >> shiftY); y < bottom; ++y)
            for (int x = std::max(0, place.x >> shiftX); x < right; ++x) {
                const auto i = static_cast<std::size_t>(x);
                const float share = static_cast<float>(weights.of(x, y, shiftX, shiftY)) / 3;
                const float made = static_cast<float>(other.row<Sample>(p, y)[i]) + lights[k].at(x, y);
                out.row<Sample>(p, y)[i] = sampleOf<Sample>(
                    static_cast<float>(before.row<Sample>(p, y)[i]) * (1 - share) + made * share, limit);
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
                       [&](auto sample) { mixPlane<decltype(sample)>(out, other, p, weights, places); });
    return out;
}

} // namespace yarngap
