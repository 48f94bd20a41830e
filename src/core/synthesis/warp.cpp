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

/// Motion and share of each sample of a plane with fewer of them: the mean over the pixels it stands for.
MidMotion coarser(const MidMotion& mid, int shiftX, int shiftY) {
    const int w = (mid.width + (1 << shiftX) - 1) >> shiftX;
    const int h = (mid.height + (1 << shiftY) - 1) >> shiftY;
    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    MidMotion out{w, h, {w, h, std::vector<float>(n * 2)}, std::vector<float>(n)};
    tbb::parallel_for(0, h, [&](int py) {
        const int y0 = py << shiftY;
        const int y1 = std::min(mid.height, y0 + (1 << shiftY));
        float* motion = out.motion.row(py);
        float* share = out.shareB.data() + static_cast<std::size_t>(py) * static_cast<std::size_t>(w);
        for (int px = 0; px < w; ++px) {
            const int x0 = px << shiftX;
            const int x1 = std::min(mid.width, x0 + (1 << shiftX));
            float vx = 0;
            float vy = 0;
            float sum = 0;
            for (int y = y0; y < y1; ++y) {
                const float* v = mid.motion.row(y);
                const float* s =
                    mid.shareB.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(mid.width);
                for (int x = x0; x < x1; ++x) {
                    vx += v[2 * x];
                    vy += v[2 * x + 1];
                    sum += s[x];
                }
            }
            const float inverse = 1.0F / static_cast<float>((x1 - x0) * (y1 - y0));
            motion[2 * px] = vx * inverse / static_cast<float>(1 << shiftX);
            motion[2 * px + 1] = vy * inverse / static_cast<float>(1 << shiftY);
            share[px] = sum * inverse;
        }
    });
    return out;
}

/// `mid` has a place for each sample of plane `p`.
template <typename Sample>
void warpPlane(const Image& a, const Image& b, const MidMotion& mid, float t, int p, Image& out) {
    const SplinePlane readA(a, p);
    const SplinePlane readB(b, p);
    const auto limit = static_cast<float>(out.layout().maxValue());
    tbb::parallel_for(0, out.plane(p).height, [&](int y) {
        const auto row = out.row<Sample>(p, y);
        const float* v = mid.motion.row(y);
        const float* shares =
            mid.shareB.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(mid.width);
        for (int x = 0; x < static_cast<int>(row.size()); ++x) {
            const float vx = v[2 * x];
            const float vy = v[2 * x + 1];
            const float ax = static_cast<float>(x) - t * vx;
            const float ay = static_cast<float>(y) - t * vy;
            const float bx = static_cast<float>(x) + (1 - t) * vx;
            const float by = static_cast<float>(y) + (1 - t) * vy;
            float wa = (1 - shares[x]) * readA.inside(ax, ay);
            float wb = shares[x] * readB.inside(bx, by);
            if (wa + wb < 1e-4F) {
                wa = 1 - shares[x];
                wb = shares[x];
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
    const PixelLayout& layout = a.layout();
    const bool subsampled = layout.chromaShiftX > 0 || layout.chromaShiftY > 0;
    const MidMotion chroma =
        subsampled ? coarser(mid, layout.chromaShiftX, layout.chromaShiftY) : MidMotion{};
    for (int p = 0; p < out.image.planeCount(); ++p) {
        withSampleType(layout, [&](auto sample) {
            warpPlane<decltype(sample)>(a, b, subsampled && layout.isChroma(p) ? chroma : mid,
                                        static_cast<float>(phase), p, out.image);
        });
    }
    return out;
}

} // namespace yarngap
