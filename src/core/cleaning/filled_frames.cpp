#include "core/cleaning/filled_frames.h"

#include "core/image/sample_types.h"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <utility>

namespace yarngap {

namespace {

constexpr std::size_t cacheBytes = std::size_t{64} << 20; // a few frames, for gaps that follow each other

/// A place in samples of a plane, whole samples that any of its pixels touch.
struct PlanePlace {
    int left, top, right, bottom; ///< right and bottom are beyond it

    PlanePlace(const DamagedPlace& place, const Image::Plane& plane, int shiftX, int shiftY) {
        const auto end = [](int begin, int size, int shift, int limit) {
            const std::int64_t beyond = std::int64_t{begin} + size;
            return static_cast<int>(std::clamp<std::int64_t>((beyond + (1 << shift) - 1) >> shift, 0, limit));
        };
        left = std::clamp(place.x >> shiftX, 0, plane.width);
        top = std::clamp(place.y >> shiftY, 0, plane.height);
        right = end(place.x, place.width, shiftX, plane.width);
        bottom = end(place.y, place.height, shiftY, plane.height);
    }
};

/// Fills a place of a plane across, line by line. `isAcross`: lines are rows, else columns.
template <typename Sample>
class PlaceFiller {
  public:
    PlaceFiller(Image& image, int plane, bool isAcross, int begin, int end)
        : image_(image)
        , plane_(plane)
        , isAcross_(isAcross)
        , length_(isAcross ? image.plane(plane).width : image.plane(plane).height)
        , lines_(isAcross ? image.plane(plane).height : image.plane(plane).width)
        , begin_(begin)
        , end_(end)
        , limit_(static_cast<float>(image.layout().maxValue())) {}

    void fill(int first, int last) {
        if (begin_ <= 0 && end_ >= length_) return;
        for (int line = first; line < last; ++line) {
            const int lean = leanAt(line);
            for (int i = begin_; i < end_; ++i)
                sample(i, line) = sampleOf<Sample>(smoothAt(i, line, lean) + grainAt(i, line), limit_);
        }
    }

  private:
    Sample& sample(int along, int line) const {
        return isAcross_ ? image_.row<Sample>(plane_, line)[static_cast<std::size_t>(along)]
                         : image_.row<Sample>(plane_, along)[static_cast<std::size_t>(line)];
    }
    [[nodiscard]] float at(int along, int line) const {
        return static_cast<float>(sample(std::clamp(along, 0, length_ - 1), std::clamp(line, 0, lines_ - 1)));
    }
    [[nodiscard]] float before(int line) const { return (at(begin_ - 1, line) + at(begin_ - 2, line)) / 2; }
    [[nodiscard]] float after(int line) const { return (at(end_, line) + at(end_ + 1, line)) / 2; }

    /// By how many lines what crosses the place leans: where both sides are most alike. An upright one wins
    /// unless another is clearly better.
    [[nodiscard]] int leanAt(int line) const {
        if (begin_ <= 0 || end_ >= length_) return 0;
        constexpr int most = 6;
        int best = 0;
        float least = 0;
        for (int step = 0; step <= 2 * most; ++step) {
            const int lean = step % 2 == 0 ? -step / 2 : (step + 1) / 2; // 0, 1, −1, 2, …
            float apart = 0;
            for (int k = -2; k <= 2; ++k)
                apart += std::abs(before(line - lean / 2 + k) - after(line + lean - lean / 2 + k));
            apart *= 1 + 0.06F * static_cast<float>(std::abs(lean));
            if (step == 0 || apart < 0.8F * least) {
                least = apart;
                best = lean;
            }
        }
        return best;
    }
    [[nodiscard]] float smoothAt(int i, int line, int lean) const {
        if (begin_ <= 0) return after(line);
        if (end_ >= length_) return before(line);
        const float share = static_cast<float>(i - begin_ + 1) / static_cast<float>(end_ - begin_ + 1);
        const auto row = [&](float away) { return line + static_cast<int>(std::lround(away)); };
        const auto leans = static_cast<float>(lean);
        return before(row(-leans * share)) * (1 - share) + after(row(leans * (1 - share))) * share;
    }
    /// What the picture holds beside what is smooth, from as far at the other side of the nearer edge.
    [[nodiscard]] float grainAt(int i, int line) const {
        const bool nearBegin = begin_ > 0 && (end_ >= length_ || i - begin_ < end_ - 1 - i);
        const int from = nearBegin ? begin_ - 2 - (i - begin_) : end_ + 1 + (end_ - 1 - i);
        if (from < 1 || from >= length_ - 1) return 0;
        float sum = 0;
        for (int y = -1; y <= 1; ++y)
            for (int x = -1; x <= 1; ++x)
                sum += at(from + x, line + y);
        const float most = limit_ / 32; // more is an outline
        return std::clamp(at(from, line) - sum / 9, -most, most);
    }

    Image& image_;
    int plane_;
    bool isAcross_;
    int length_, lines_;
    int begin_, end_;
    float limit_;
};

template <typename Sample>
void fillPlane(Image& image, int p, const std::vector<DamagedPlace>& places) {
    const PixelLayout& layout = image.layout();
    for (const DamagedPlace& place : places) {
        const PlanePlace on(place, image.plane(p), layout.isChroma(p) ? layout.chromaShiftX : 0,
                            layout.isChroma(p) ? layout.chromaShiftY : 0);
        if (place.width <= place.height)
            PlaceFiller<Sample>(image, p, true, on.left, on.right).fill(on.top, on.bottom);
        else
            PlaceFiller<Sample>(image, p, false, on.top, on.bottom).fill(on.left, on.right);
    }
}

} // namespace

Image withPlacesFilled(const Image& frame, const std::vector<DamagedPlace>& places) {
    Image out = frame;
    for (int p = 0; p < out.planeCount(); ++p)
        withSampleType(out.layout(), [&](auto sample) { fillPlane<decltype(sample)>(out, p, places); });
    return out;
}

FilledFrames::FilledFrames(std::shared_ptr<ShotFrames> source, Cleanup cleanup)
    : source_(std::move(source))
    , cleanup_(std::move(cleanup))
    , cache_(cacheBytes) {}

const std::vector<DamagedPlace>* FilledFrames::placesOf(std::int64_t n) const {
    const CleanupDecision* decision = cleanup_.about(n);
    const bool isFilled = decision && decision->kind == CleanupKind::restore && !decision->places.empty();
    return isFilled ? &decision->places : nullptr;
}

ImagePtr FilledFrames::frame(std::int64_t n, const std::stop_token& stop) {
    const auto* places = placesOf(n);
    if (!places) return source_->frame(n, stop);
    if (auto hit = cache_.find(n)) return *hit;
    auto image = std::make_shared<Image>(withPlacesFilled(*source_->frame(n, stop), *places));
    cache_.insert(n, image, image->byteCount());
    return image;
}

std::string FilledFrames::identityOf(std::int64_t first, std::int64_t last) const {
    // Frames in a row that are as they were are told as before, so that what was kept of them is found.
    std::string text;
    for (std::int64_t n = first; n <= last; ++n) {
        if (n > first) text += ';';
        if (const auto* places = placesOf(n)) {
            text += source_->identityOf(n) + " filled at " + textOf(*places);
            continue;
        }
        const std::int64_t begin = n;
        while (n < last && !placesOf(n + 1))
            ++n;
        text += source_->identityOf(begin, n);
    }
    return text;
}

} // namespace yarngap
