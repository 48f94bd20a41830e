// The frame of the result, and how the picture lies in it.
#pragma once

#include "core/image/picture_point.h"
#include "core/media/media_facts.h"
#include "core/time/rational.h"

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

namespace yarngap {

/// How a picture of another shape is brought into the frame.
enum class FrameFit {
    letterbox, ///< all of it is seen; bars above and below, or at the sides
    fill,      ///< no bars; what stands out is cut off
    width,     ///< as wide as the frame
    height,    ///< as high as the frame
    byHand     ///< a line of the picture is a line of the frame
};
[[nodiscard]] std::string_view name(FrameFit value);
/// Reads what name() gives; throws Error listing the values.
FrameFit parseFrameFit(std::string_view text);

struct FrameSize {
    int width = 0;
    int height = 0;
    friend bool operator==(const FrameSize&, const FrameSize&) = default;
};

struct FrameChoice {
    std::optional<FrameSize> size = {}; ///< pixels; absent: that of the source
    /// Width over height of a pixel. Absent: that of the source where the size is the source's, else 1.
    std::optional<Rational> pixelAspect = {};
    FrameFit fit = FrameFit::letterbox;
    std::array<int, 3> around = {0, 0, 0}; ///< colour beside the picture: red, green, blue, 0 to 255

    static constexpr int smallest = 16; ///< pixels, and the greatest is the writers'
    static constexpr int largest = 16384;

    friend bool operator==(const FrameChoice&, const FrameChoice&) = default;
};

/// Where the picture lies at a source place, on top of the fit.
struct PlaceKey {
    Rational at = 0;     ///< source place
    double scale = 1;    ///< about the middle of the frame, `least` to `most`
    double x = 0, y = 0; ///< shift as shares of the frame's width and height, right and down
    bool isEased = true; ///< to the next key: begins and ends gently; else at one speed

    static constexpr double least = 0.01;
    static constexpr double most = 100;
    static constexpr double farthest = 10; ///< frames

    friend bool operator==(const PlaceKey&, const PlaceKey&) = default;
};

/// How far a place lies between those of two keys, 0 to 1; eased ones begin and end gently, 3u² − 2u³.
double shareBetween(const Rational& first, const Rational& last, const Rational& place, bool isEased);

/// Scale and place between the keys, and as at the nearest beyond them. Scales go by ratio.
PlaceKey placeAt(std::span<const PlaceKey> keys, const Rational& place);
/// The keys with one more, or one in place of that at the same place.
std::vector<PlaceKey> withPlaceKey(std::vector<PlaceKey> keys, const PlaceKey& key);

/// Size and pixel aspect of the result. Sizes that the subsampling does not allow are rounded to the next
/// larger one that it does.
struct ResultFrame {
    FrameSize size;
    Rational pixelAspect = 1;
    bool isRounded = false;
};
ResultFrame resultFrame(const FrameChoice& choice, const MediaFacts& source);

/// Sizes of deliveries, with the pixel aspect that goes with each.
struct FrameStandard {
    FrameSize size;
    Rational pixelAspect;
};
std::span<const FrameStandard> frameStandards();

} // namespace yarngap
