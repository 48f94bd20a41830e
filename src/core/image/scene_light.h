// Pictures of floats hold light as the scene gave it, without end; eyes and estimators need it encoded.
#pragma once

#include "core/image/image.h"

namespace yarngap {

enum class LightCurve {
    /// sRGB (IEC 61966-2-1): x ≤ 0.0031308 ? 12.92 x : 1.055 x^(1/2.4) − 0.055, cut off at 0 and 1. For
    /// screens and files.
    screen,
    /// x / (x + 0.18), negative light as 0: mid grey becomes one half and no highlight is cut off (Naka and
    /// Rushton 1966). For measuring and estimating motion.
    analysis
};

/// The layout of what encodeLight() makes of a picture of floats: 16-bit integers.
PixelLayout encodedLayout(const PixelLayout& floats);

/// A picture of floats as 16-bit integers. Alpha is linear, cut off at 0 and 1. Samples that are no numbers
/// become 0.
Image encodeLight(const Image& floats, LightCurve curve);

} // namespace yarngap
