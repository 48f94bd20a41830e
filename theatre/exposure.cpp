#include "theatre/exposure.h"

#include "theatre/paper.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace yarngap::theatre {

namespace {

/// 8-bit sRGB to linear light, 0 to 1 (IEC 61966-2-1).
const std::array<float, 256>& linearLight() {
    static const std::array<float, 256> table = [] {
        std::array<float, 256> t{};
        for (std::size_t i = 0; i < t.size(); ++i) {
            const double v = static_cast<double>(i) / 255.0;
            t.at(i) = static_cast<float>(v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4));
        }
        return t;
    }();
    return table;
}

float displayLight(float linear) {
    return linear <= 0.0031308F ? linear * 12.92F : 1.055F * std::pow(linear, 1.0F / 2.4F) - 0.055F;
}

/// Roughly normal noise of deviation 1: the sum of four even ones.
float grainAt(std::uint32_t seed, int x, int y) {
    double sum = -2;
    for (std::uint32_t i = 0; i < 4; ++i)
        sum += hashNoise(seed + i * 7919, x, y);
    return static_cast<float>(sum * 1.732);
}

struct Rgb {
    float r = 0, g = 0, b = 0;
};

std::vector<Rgb> integrate(const Scene& scene, const Camera& camera, std::int64_t n) {
    std::vector<Rgb> sum(static_cast<std::size_t>(camera.width) * static_cast<std::size_t>(camera.height));
    QImage picture(camera.width, camera.height, QImage::Format_RGB32);
    const double moment = static_cast<double>(n) / camera.rate.toDouble();
    const auto& light = linearLight();
    for (int s = 0; s < camera.samples; ++s) {
        const double offset = ((s + 0.5) / camera.samples - 0.5) * camera.shutterSeconds;
        {
            QPainter painter(&picture);
            painter.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
            scene.draw(painter, moment + offset);
        }
        std::size_t i = 0;
        for (int y = 0; y < camera.height; ++y) {
            const auto* row = reinterpret_cast<const QRgb*>(picture.constScanLine(y));
            for (int x = 0; x < camera.width; ++x, ++i) {
                sum[i].r += light.at(static_cast<std::size_t>(qRed(row[x])));
                sum[i].g += light.at(static_cast<std::size_t>(qGreen(row[x])));
                sum[i].b += light.at(static_cast<std::size_t>(qBlue(row[x])));
            }
        }
    }
    const float share = 1.0F / static_cast<float>(camera.samples);
    const float grain = static_cast<float>(camera.grain / 255.0);
    const std::uint32_t seed = camera.seed + static_cast<std::uint32_t>(n) * 31;
    std::size_t i = 0;
    for (int y = 0; y < camera.height; ++y)
        for (int x = 0; x < camera.width; ++x, ++i) {
            const float noise = grain * grainAt(seed, x, y);
            sum[i] = {displayLight(sum[i].r * share) + noise, displayLight(sum[i].g * share) + noise,
                      displayLight(sum[i].b * share) + noise};
        }
    return sum;
}

} // namespace

Image expose(const Scene& scene, const Camera& camera, std::int64_t n) {
    const std::vector<Rgb> rgb = integrate(scene, camera, n);
    Image out(camera.width, camera.height, {.depth = camera.depth, .chromaShiftX = 1, .chromaShiftY = 1});
    const auto scale = static_cast<float>(1 << (camera.depth - 8));
    const auto put = [&](int p, int x, int y, float value) {
        const float v = std::clamp(value * scale, 0.0F, static_cast<float>(out.layout().maxValue())) + 0.5F;
        if (camera.depth > 8)
            out.row<std::uint16_t>(p, y)[static_cast<std::size_t>(x)] = static_cast<std::uint16_t>(v);
        else
            out.row<std::uint8_t>(p, y)[static_cast<std::size_t>(x)] = static_cast<std::uint8_t>(v);
    };
    const auto pixel = [&](int x, int y) -> const Rgb& {
        const int cx = std::min(x, camera.width - 1);
        const int cy = std::min(y, camera.height - 1);
        return rgb[static_cast<std::size_t>(cy) * static_cast<std::size_t>(camera.width) +
                   static_cast<std::size_t>(cx)];
    };
    const auto luma = [](const Rgb& c) { return 0.2126F * c.r + 0.7152F * c.g + 0.0722F * c.b; };
    for (int y = 0; y < camera.height; ++y)
        for (int x = 0; x < camera.width; ++x)
            put(0, x, y, 16.0F + 219.0F * luma(pixel(x, y)));
    for (int y = 0; y < out.plane(1).height; ++y)
        for (int x = 0; x < out.plane(1).width; ++x) {
            Rgb mean;
            for (int k = 0; k < 4; ++k) {
                const Rgb& c = pixel(2 * x + (k & 1), 2 * y + (k >> 1));
                mean.r += c.r / 4;
                mean.g += c.g / 4;
                mean.b += c.b / 4;
            }
            const float l = luma(mean);
            put(1, x, y, 128.0F + 224.0F * (mean.b - l) / 1.8556F);
            put(2, x, y, 128.0F + 224.0F * (mean.r - l) / 1.5748F);
        }
    return out;
}

} // namespace yarngap::theatre
