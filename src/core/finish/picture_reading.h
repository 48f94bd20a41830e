// A picture read through a mapping, once.
#pragma once

#include "core/finish/float_picture.h"
#include "core/finish/mapping.h"
#include "core/image/image.h"

#include <array>

namespace yarngap {

/// A picture of width x height pixels that shows `made` through `mapping`, plane by plane at its own
/// subsampling and siting, by the cubic spline that frames are made with (see SplinePlane). Beyond the edges
/// of `made` its edge goes on. Where the picture becomes smaller, the mean over the area of a pixel is read:
/// as many places in it, evenly spread, as it covers samples across and down, at most 16 each way.
FloatPicture readThrough(const FloatPicture& made, const Mapping& mapping, int width, int height,
                         const ColourTags& colour);
/// The same of samples, and rounded to them.
Image readThrough(const Image& made, const Mapping& mapping, int width, int height, const ColourTags& colour);

/// Whether some of a picture of width x height shows what lies outside `made`.
bool showsAround(const Mapping& mapping, int width, int height, int madeWidth, int madeHeight);
/// Covers what lies outside `made` with a colour (red, green, blue, 0 to 255), an edge that a pixel lies
/// across by its share.
void coverAround(Image& picture, const Mapping& mapping, int madeWidth, int madeHeight,
                 const std::array<int, 3>& around, const ColourTags& colour);

} // namespace yarngap
