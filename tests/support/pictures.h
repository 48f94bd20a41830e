// Pictures with known content, and how alike two pictures are.
#pragma once

#include "core/image/image.h"
#include "core/synthesis/blend.h"
#include "support/one_worker.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <span>

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
    // By rows: sample by sample it is most of what a test with sanitizers does.
    const auto add = [&](const auto* first, const auto* second) {
        for (int x = border; x < a.width() - border; ++x) {
            const double d = static_cast<double>(first[x]) - static_cast<double>(second[x]);
            sum += d * d;
        }
        count += std::max(0, a.width() - 2 * border);
    };
    for (int y = border; y < a.height() - border; ++y) {
        if (a.layout().bytesPerSample() == 1)
            add(a.row<std::uint8_t>(0, y).data(), b.row<std::uint8_t>(0, y).data());
        else
            add(a.row<std::uint16_t>(0, y).data(), b.row<std::uint16_t>(0, y).data());
    }
    const double peak = a.layout().maxValue();
    return sum > 0 ? 10 * std::log10(peak * peak * count / sum) : 99.0;
}

/// The mean of pictures by BlendSum, one share for each.
inline Image blendFrames(std::span<const ImagePtr> frames, std::span<const double> shares) {
    BlendSum sum;
    for (std::size_t i = 0; i < frames.size(); ++i)
        sum.add(*frames[i], shares[i]);
    return sum.mean();
}

} // namespace yarngap::test
