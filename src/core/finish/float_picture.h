// A picture between two steps of finishing: planes of floats in the values of its samples.
#pragma once

#include "core/image/image.h"

#include <cstddef>
#include <memory>
#include <vector>

namespace yarngap {

/// Not set when made.
struct FloatPlane {
    int width = 0;
    int height = 0;
    std::unique_ptr<float[]> values;

    FloatPlane() = default;
    FloatPlane(int w, int h)
        : width(w)
        , height(h)
        , values(std::make_unique_for_overwrite<float[]>(static_cast<std::size_t>(w) *
                                                         static_cast<std::size_t>(h))) {}
    [[nodiscard]] float* row(int y) {
        return values.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
    }
    [[nodiscard]] const float* row(int y) const {
        return values.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
    }
};

struct FloatPicture {
    int width = 0;
    int height = 0;
    PixelLayout layout;
    std::vector<FloatPlane> planes;
};

/// Samples that are no numbers become 0.
FloatPicture inFloats(const Image& image);
/// Rounded to the samples of its layout.
Image inSamples(const FloatPicture& picture);

/// Where black and white lie among the samples of luma.
struct NominalRange {
    float black = 0, white = 1;
    [[nodiscard]] float width() const { return white - black; }
};
NominalRange nominalRange(const PixelLayout& layout, const ColourTags& colour);
/// The middle of the samples of chroma.
float chromaMiddle(const PixelLayout& layout);

} // namespace yarngap
