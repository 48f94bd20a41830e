#include "core/image/scene_light.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

float encoded(float x, LightCurve curve) {
    if (!(x > 0)) return 0; // negative, or no number
    switch (curve) {
    case LightCurve::screen:
        if (x >= 1) return 1;
        return x <= 0.0031308F ? 12.92F * x : 1.055F * std::pow(x, 1 / 2.4F) - 0.055F;
    case LightCurve::analysis:
        return std::isinf(x) ? 1 : x / (x + 0.18F);
    }
    return 0;
}

} // namespace

PixelLayout encodedLayout(const PixelLayout& floats) {
    PixelLayout layout = floats;
    layout.samples = SampleKind::integer;
    layout.depth = 16;
    return layout;
}

Image encodeLight(const Image& floats, LightCurve curve) {
    Image out(floats.width(), floats.height(), encodedLayout(floats.layout()));
    for (int p = 0; p < floats.planeCount(); ++p) {
        const bool alpha = floats.layout().alpha && p == floats.planeCount() - 1;
        tbb::parallel_for(0, floats.plane(p).height, [&](int y) {
            const auto from = floats.row<float>(p, y);
            const auto to = out.row<std::uint16_t>(p, y);
            for (std::size_t x = 0; x < to.size(); ++x) {
                const float v =
                    alpha ? (from[x] > 0 ? std::min(from[x], 1.0F) : 0.0F) : encoded(from[x], curve);
                to[x] = static_cast<std::uint16_t>(v * 65535.0F + 0.5F);
            }
        });
    }
    return out;
}

} // namespace yarngap
