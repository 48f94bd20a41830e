#include "core/finish/frame_fit.h"

#include "core/choice_names.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

constexpr ChoiceNames<FrameFit, 5> fits{"fit",
                                        {{{FrameFit::letterbox, "letterbox"},
                                          {FrameFit::fill, "fill"},
                                          {FrameFit::width, "width"},
                                          {FrameFit::height, "height"},
                                          {FrameFit::byHand, "hand"}}}};

/// Pixels of standard definition as ITU-R BT.601 samples them.
const std::array<FrameStandard, 9> standards{{{{1920, 1080}, 1},
                                              {{3840, 2160}, 1},
                                              {{2048, 1080}, 1},
                                              {{4096, 2160}, 1},
                                              {{1280, 720}, 1},
                                              {{720, 576}, Rational(12, 11)},
                                              {{720, 486}, Rational(10, 11)},
                                              {{1080, 1920}, 1},
                                              {{1080, 1080}, 1}}};

int roundedUp(int value, int shift) {
    const int step = 1 << shift;
    return (value + step - 1) / step * step;
}

} // namespace

std::string_view name(FrameFit value) {
    return fits.nameOf(value);
}
FrameFit parseFrameFit(std::string_view text) {
    return fits.parse(text);
}

double shareBetween(const Rational& first, const Rational& last, const Rational& place, bool isEased) {
    if (last <= first) return 1;
    const double u =
        std::clamp((place.toDouble() - first.toDouble()) / (last.toDouble() - first.toDouble()), 0.0, 1.0);
    return isEased ? u * u * (3 - 2 * u) : u;
}

PlaceKey placeAt(std::span<const PlaceKey> keys, const Rational& place) {
    if (keys.empty()) return {};
    const auto after = std::ranges::upper_bound(
        keys, place, [](const Rational& a, const Rational& b) { return a < b; }, &PlaceKey::at);
    if (after == keys.begin()) return keys.front();
    if (after == keys.end()) return keys.back();
    const PlaceKey& a = *std::prev(after);
    const PlaceKey& b = *after;
    const double u = shareBetween(a.at, b.at, place, a.isEased);
    return {.at = place,
            .scale = a.scale * std::pow(b.scale / a.scale, u),
            .x = a.x + u * (b.x - a.x),
            .y = a.y + u * (b.y - a.y),
            .isEased = a.isEased};
}

std::vector<PlaceKey> withPlaceKey(std::vector<PlaceKey> keys, const PlaceKey& key) {
    const auto at = std::ranges::lower_bound(
        keys, key.at, [](const Rational& a, const Rational& b) { return a < b; }, &PlaceKey::at);
    if (at != keys.end() && at->at == key.at)
        *at = key;
    else
        keys.insert(at, key);
    return keys;
}

ResultFrame resultFrame(const FrameChoice& choice, const MediaFacts& source) {
    ResultFrame out{{source.width, source.height}, source.pixelAspect};
    if (choice.size) {
        // Of the source's own size nothing is rounded: it is as it came.
        out.size = {roundedUp(choice.size->width, source.layout.chromaShiftX),
                    roundedUp(choice.size->height, source.layout.chromaShiftY)};
        out.isRounded = out.size != *choice.size;
        out.pixelAspect = 1;
    }
    if (choice.pixelAspect) out.pixelAspect = *choice.pixelAspect;
    return out;
}

std::span<const FrameStandard> frameStandards() {
    return standards;
}

} // namespace yarngap
