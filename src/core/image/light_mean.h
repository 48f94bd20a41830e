// Mixing as light.
#pragma once

#include "core/image/image.h"

#include <span>
#include <vector>

namespace yarngap {

/// A mean of pictures as light: each is decoded to light that adds up, the means are taken, and the result is
/// encoded again.
///
/// Given is the mean of the encoded values, with its chroma as it should be; added to it is only what light
/// makes different, so that where all pictures agree not a step changes. The transfer curve is that of the
/// tags (ITU-T H.273): sRGB, gamma 2.2 and 2.8, linear, PQ (SMPTE ST 2084), HLG (ARIB STD-B67), and BT.1886
/// (gamma 2.4) for all others. Floats are light already and come back unchanged.
///
///     LightMean light(a, tags);
///     light.add(a, shares); // of each pixel, or one for all
///     light.add(b, otherShares);
///     Image result = light.of(mixed);
class LightMean {
  public:
    LightMean(const Image& like, const ColourTags& tags);
    /// `shares`: one per pixel, row by row, or a single one. Those of all pictures add up to 1 at each pixel.
    void add(const Image& picture, std::span<const float> shares);
    /// `mixed` as the mean of the light, alpha as it is.
    [[nodiscard]] Image of(const Image& mixed) const { return addedTo(mixed, mixed); }
    /// What light makes different of `mixed`, added to `picture`, which is `mixed` with something on it
    /// (grain).
    [[nodiscard]] Image addedTo(Image picture, const Image& mixed) const;

  private:
    int width_;
    int height_;
    PixelLayout layout_;
    ColourTags tags_;
    std::vector<float> sums_; // R G B of each pixel, as light
};

} // namespace yarngap
