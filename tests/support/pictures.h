// Pictures with known content, and how alike two pictures are.
#pragma once

#include "core/image/image.h"
#include "support/one_worker.h"

#include <cmath>
#include <functional>

namespace yarngap::test {

/// Fills all planes: sample = value(plane, x, y), where x and y count the samples of that plane.
inline Image pictureOf(int width, int height, const PixelLayout& layout,
                       const std::function<double(int, int, int)>& value) {
    Image image(width, height, layout);
    for (int p = 0; p < image.planeCount(); ++p)
        for (int y = 0; y < image.plane(p).height; ++y)
            for (int x = 0; x < image.plane(p).width; ++x) {
                const auto v = std::lround(value(p, x, y));
                if (layout.bytesPerSample() == 1)
                    image.row<std::uint8_t>(p, y)[static_cast<std::size_t>(x)] = static_cast<std::uint8_t>(v);
                else
                    image.row<std::uint16_t>(p, y)[static_cast<std::size_t>(x)] =
                        static_cast<std::uint16_t>(v);
            }
    return image;
}

inline int sampleAt(const Image& image, int p, int x, int y) {
    return image.layout().bytesPerSample() == 1 ? image.row<std::uint8_t>(p, y)[static_cast<std::size_t>(x)]
                                                : image.row<std::uint16_t>(p, y)[static_cast<std::size_t>(x)];
}

/// Peak signal-to-noise ratio of plane 0, in decibels, leaving out `border` pixels at each side.
inline double lumaPsnr(const Image& a, const Image& b, int border = 0) {
    double sum = 0;
    double count = 0;
    for (int y = border; y < a.height() - border; ++y)
        for (int x = border; x < a.width() - border; ++x) {
            const double d = sampleAt(a, 0, x, y) - sampleAt(b, 0, x, y);
            sum += d * d;
            ++count;
        }
    const double peak = a.layout().maxValue();
    return sum > 0 ? 10 * std::log10(peak * peak * count / sum) : 99.0;
}

} // namespace yarngap::test
