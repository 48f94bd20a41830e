// A small grey copy of a picture, for measures that need no detail.
#pragma once

#include "core/image/image.h"

namespace yarngap {

/// Luma (green of RGB) at `depth` bits, 8 or 16, and at most `widest` columns, each the mean of the area it
/// stands for.
Image smallLuma(const Image& image, int widest = 640, int depth = 8);

} // namespace yarngap
