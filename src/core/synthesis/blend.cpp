#include "core/synthesis/blend.h"

#include "core/error.h"
#include "core/image/sample_types.h"

#include <tbb/parallel_for.h>

namespace yarngap {

namespace {

template <typename Sample>
void addPlane(const Image& frame, int p, float share, std::vector<float>& sum) {
    const auto width = static_cast<std::size_t>(frame.plane(p).width);
    tbb::parallel_for(0, frame.plane(p).height, [&](int y) {
        const auto in = frame.row<Sample>(p, y);
        float* to = sum.data() + static_cast<std::size_t>(y) * width;
        for (std::size_t x = 0; x < width; ++x)
            to[x] += share * static_cast<float>(in[x]);
    });
}

template <typename Sample>
void roundPlane(const std::vector<float>& sum, Image& out, int p) {
    const auto width = static_cast<std::size_t>(out.plane(p).width);
    const auto limit = static_cast<float>(out.layout().maxValue());
    tbb::parallel_for(0, out.plane(p).height, [&](int y) {
        const float* from = sum.data() + static_cast<std::size_t>(y) * width;
        const auto row = out.row<Sample>(p, y);
        for (std::size_t x = 0; x < width; ++x)
            row[x] = sampleOf<Sample>(from[x], limit);
    });
}

} // namespace

void BlendSum::add(const Image& frame, double share) {
    if (planes_.empty()) {
        width_ = frame.width();
        height_ = frame.height();
        layout_ = frame.layout();
        for (int p = 0; p < frame.planeCount(); ++p)
            planes_.emplace_back(static_cast<std::size_t>(frame.plane(p).width) *
                                 static_cast<std::size_t>(frame.plane(p).height));
    }
    if (frame.width() != width_ || frame.height() != height_ || frame.layout() != layout_)
        throw Error("Frames of different size or pixel format cannot be blended.");
    for (int p = 0; p < frame.planeCount(); ++p) {
        auto& sum = planes_[static_cast<std::size_t>(p)];
        withSampleType(layout_, [&](auto sample) {
            addPlane<decltype(sample)>(frame, p, static_cast<float>(share), sum);
        });
    }
}

Image BlendSum::mean() const {
    Image out(width_, height_, layout_);
    for (int p = 0; p < out.planeCount(); ++p) {
        const auto& sum = planes_[static_cast<std::size_t>(p)];
        withSampleType(layout_, [&](auto sample) { roundPlane<decltype(sample)>(sum, out, p); });
    }
    return out;
}

} // namespace yarngap
