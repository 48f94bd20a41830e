#include "core/synthesis/warp.h"

#include "core/image/sample_types.h"
#include "core/image/scene_light.h"
#include "core/synthesis/doubt.h"
#include "core/synthesis/mid_motion.h"
#include "core/synthesis/spline_plane.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// Luma (or green, which carries most of it) of a picture as values 0 to 1.
std::vector<float> lumaPlane(const Image& image) {
    if (image.layout().isFloat()) return lumaPlane(encodeLight(image, LightCurve::analysis));
    const auto w = static_cast<std::size_t>(image.width());
    std::vector<float> out(w * static_cast<std::size_t>(image.height()));
    const float scale = 1.0F / static_cast<float>(image.layout().maxValue());
    tbb::parallel_for(0, image.height(), [&](int y) {
        float* to = out.data() + w * static_cast<std::size_t>(y);
        const auto convert = [&](auto row) {
            for (std::size_t x = 0; x < w; ++x)
                to[x] = static_cast<float>(row[x]) * scale;
        };
        if (image.layout().bytesPerSample() == 1)
            convert(image.row<std::uint8_t>(0, y));
        else
            convert(image.row<std::uint16_t>(0, y));
    });
    return out;
}

/// Motion and share at a sample of a plane: the mean over the full-picture pixels it stands for.
struct Local {
    float vx, vy, shareB;
};

Local localMotion(const MidMotion& mid, int px, int py, int shiftX, int shiftY) {
    const int x0 = px << shiftX;
    const int y0 = py << shiftY;
    const int x1 = std::min(mid.width, x0 + (1 << shiftX));
    const int y1 = std::min(mid.height, y0 + (1 << shiftY));
    Local sum{0, 0, 0};
    for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x) {
            const float* v = mid.motion.row(y) + static_cast<std::ptrdiff_t>(2) * x;
            sum.vx += v[0];
            sum.vy += v[1];
            sum.shareB += mid.shareB[static_cast<std::size_t>(y) * static_cast<std::size_t>(mid.width) +
                                     static_cast<std::size_t>(x)];
        }
    const float inverse = 1.0F / static_cast<float>((x1 - x0) * (y1 - y0));
    return {sum.vx * inverse / static_cast<float>(1 << shiftX),
            sum.vy * inverse / static_cast<float>(1 << shiftY), sum.shareB * inverse};
}

template <typename Sample>
void warpPlane(const Image& a, const Image& b, const MidMotion& mid, float t, int p, Image& out) {
    const PixelLayout& layout = out.layout();
    const int sx = layout.isChroma(p) ? layout.chromaShiftX : 0;
    const int sy = layout.isChroma(p) ? layout.chromaShiftY : 0;
    const SplinePlane readA(a, p);
    const SplinePlane readB(b, p);
    const auto limit = static_cast<float>(layout.maxValue());
    tbb::parallel_for(0, out.plane(p).height, [&](int y) {
        const auto row = out.row<Sample>(p, y);
        for (int x = 0; x < static_cast<int>(row.size()); ++x) {
            const Local m = localMotion(mid, x, y, sx, sy);
            const float ax = static_cast<float>(x) - t * m.vx;
            const float ay = static_cast<float>(y) - t * m.vy;
            const float bx = static_cast<float>(x) + (1 - t) * m.vx;
            const float by = static_cast<float>(y) + (1 - t) * m.vy;
            float wa = (1 - m.shareB) * readA.inside(ax, ay);
            float wb = m.shareB * readB.inside(bx, by);
            if (wa + wb < 1e-4F) {
                wa = 1 - m.shareB;
                wb = m.shareB;
            }
            const float share = wb / (wa + wb);
            float value = 0;
            if (share < 0.999F) value += (1 - share) * readA(ax, ay);
            if (share > 0.001F) value += share * readB(bx, by);
            row[static_cast<std::size_t>(x)] = sampleOf<Sample>(value, limit);
        }
    });
}

} // namespace

WarpedFrame warpBetween(const Image& a, const Image& b, const Vectors& vectors, double phase) {
    const std::vector<float> lumaA = lumaPlane(a);
    const std::vector<float> lumaB = lumaPlane(b);
    const MidMotion mid = projectMotion(vectors, lumaA, lumaB, phase);
    WarpedFrame out{Image(a.width(), a.height(), a.layout()), doubtOf(mid, lumaA, lumaB, phase)};
    for (int p = 0; p < out.image.planeCount(); ++p) {
        withSampleType(a.layout(), [&](auto sample) {
            warpPlane<decltype(sample)>(a, b, mid, static_cast<float>(phase), p, out.image);
        });
    }
    return out;
}

} // namespace yarngap
