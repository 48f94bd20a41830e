// What a patch shows, and laying it on a frame.
#pragma once

#include "core/image/image.h"
#include "core/mending/carried_outlines.h"

#include <vector>

namespace yarngap {

/// A part of a picture, in whole pixels; right and bottom are outside.
struct PictureArea {
    int left = 0, top = 0, right = 0, bottom = 0;

    [[nodiscard]] bool empty() const { return right <= left || bottom <= top; }
    [[nodiscard]] int width() const { return right - left; }
    [[nodiscard]] int height() const { return bottom - top; }
};

/// Where a patch counts, and how much: the soft area of an outline.
struct SoftArea {
    PictureArea place; ///< nothing counts outside it; its sides are even, for chroma
    Image coverage;    ///< of the size of `place`: grey, 16 bit; empty where the area is outside the picture
};

/// The area of an outline whose edge goes from all to nothing over `feather` pixels on each side, on a
/// picture of `width` x `height`.
SoftArea softAreaOf(const std::vector<PicturePoint>& outline, int feather, int width, int height);

/// Lays `version`, a picture like `frame`, on it: where coverage is 0, samples stay as they are, bit for bit;
/// elsewhere out = frame + share · coverage · (version − frame). `share` is 0 to 1.
void lay(Image& frame, const Image& version, const SoftArea& area, double share);

/// `frame` blurred inside `place`: a Gaussian whose standard deviation is half of `radius` pixels.
Image softened(const Image& frame, const PictureArea& place, int radius);

/// `frame` with what lies at `motion(p)` in `picture` put at each place p inside `place`.
Image withMoved(const Image& frame, const Image& picture, const PictureArea& place, const Similarity& motion);

/// Where in another picture each pixel inside a place is found.
struct PlacesIn {
    std::vector<float> x, y;  ///< row by row, in pixels from the outer corner of the top left one
    std::vector<float> share; ///< how much it counts, 0 to 1
};

/// Adds samples of `picture` at `places` to sums kept by plane, and their shares to `weights`: see
/// WhatLiesBehind.
class GatheredPicture {
  public:
    GatheredPicture(const Image& like, const PictureArea& place);
    void add(const Image& picture, const PlacesIn& places);
    /// `frame` with what was gathered; where the shares add up to less than 1, the rest stays.
    [[nodiscard]] Image over(const Image& frame) const;

  private:
    PictureArea place_;
    struct Plane {
        PictureArea place;
        std::vector<float> sum, weight;
    };
    std::vector<Plane> planes_;
};

} // namespace yarngap
