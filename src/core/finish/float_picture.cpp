#include "core/finish/float_picture.h"

#include "core/image/sample_types.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

FloatPicture inFloats(const Image& image) {
    FloatPicture out{image.width(), image.height(), image.layout(), {}};
    for (int p = 0; p < image.planeCount(); ++p) {
        FloatPlane plane(image.plane(p).width, image.plane(p).height);
        withSampleType(image.layout(), [&](auto type) {
            using Sample = decltype(type);
            tbb::parallel_for(0, plane.height, [&](int y) {
                const auto in = image.row<Sample>(p, y);
                std::transform(in.begin(), in.end(), plane.row(y), [](Sample sample) {
                    const auto v = static_cast<float>(sample);
                    return std::isfinite(v) ? v : 0.0F; // or it would spread over all that is read with it
                });
            });
        });
        out.planes.push_back(std::move(plane));
    }
    return out;
}

Image inSamples(const FloatPicture& picture) {
    Image out(picture.width, picture.height, picture.layout);
    const auto limit = static_cast<float>(picture.layout.maxValue());
    for (int p = 0; p < out.planeCount(); ++p) {
        const FloatPlane& plane = picture.planes[static_cast<std::size_t>(p)];
        withSampleType(picture.layout, [&](auto sample) {
            using Sample = decltype(sample);
            tbb::parallel_for(0, plane.height, [&](int y) {
                const float* in = plane.row(y);
                std::transform(in, in + plane.width, out.row<Sample>(p, y).begin(),
                               [limit](float v) { return sampleOf<Sample>(v, limit); });
            });
        });
    }
    return out;
}

NominalRange nominalRange(const PixelLayout& layout, const ColourTags& colour) {
    if (layout.isFloat()) return {};
    const auto most = static_cast<float>(layout.maxValue());
    if (colour.fullRange || layout.model != ColourModel::yuv) return {0, most};
    const auto step = static_cast<float>(1 << (layout.depth - 8));
    return {16 * step, 235 * step};
}

float chromaMiddle(const PixelLayout& layout) {
    return layout.isFloat() ? 0.5F : static_cast<float>(1 << (layout.depth - 1));
}

} // namespace yarngap
