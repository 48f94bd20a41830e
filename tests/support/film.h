// Drawn film with known motion, and what telecine and cameras make of it: fields, pulldown, repeats.
#pragma once

#include "core/image/image.h"
#include "support/one_worker.h"

#include <cmath>
#include <cstdint>
#include <functional>
#include <vector>

namespace yarngap::test {

/// Luma 0 to 255 at a place and a moment (in film frames).
using Scenery = std::function<double(double x, double y, double moment)>;

inline double hashed(std::int64_t a, std::int64_t b, std::int64_t c) {
    std::uint64_t h = static_cast<std::uint64_t>(a) * 0x9E3779B97F4A7C15ULL ^
                      static_cast<std::uint64_t>(b) * 0xC2B2AE3D27D4EB4FULL ^
                      static_cast<std::uint64_t>(c) * 0x165667B19E3779F9ULL;
    h = (h ^ (h >> 29)) * 0xBF58476D1CE4E5B9ULL;
    return static_cast<double>((h ^ (h >> 32)) & 0xFFFFF) / 1048575.0;
}

/// Smooth texture with structures of about `size` pixels, 40 to 215.
inline double texture(double x, double y, double size, std::int64_t seed) {
    const auto value = [&](std::int64_t i, std::int64_t j) { return hashed(i, j, seed); };
    const double u = x / size;
    const double v = y / size;
    const auto i = static_cast<std::int64_t>(std::floor(u));
    const auto j = static_cast<std::int64_t>(std::floor(v));
    const double fx = u - std::floor(u);
    const double fy = v - std::floor(v);
    const double sx = fx * fx * (3 - 2 * fx);
    const double sy = fy * fy * (3 - 2 * fy);
    const double top = value(i, j) * (1 - sx) + value(i + 1, j) * sx;
    const double bottom = value(i, j + 1) * (1 - sx) + value(i + 1, j + 1) * sx;
    return 40 + 175 * (top * (1 - sy) + bottom * sy);
}

/// The whole picture moves by (vx, vy) pixels a film frame.
inline Scenery pan(double vx, double vy, std::int64_t seed = 1) {
    return [=](double x, double y, double t) { return texture(x - vx * t, y - vy * t, 9, seed); };
}

/// A disc moves over a still ground.
inline Scenery discOverStill(double vx, double radius = 22) {
    return [=](double x, double y, double t) {
        const double cx = 40 + std::fmod(vx * t, 240.0);
        const double d = std::hypot(x - cx, y - 70);
        return d < radius ? 60 + 150 * hashed(static_cast<std::int64_t>(x - cx + 64) / 5,
                                              static_cast<std::int64_t>(y) / 5, 9)
                          : texture(x, y, 14, 3);
    };
}

/// Draws the moments of the top and the bottom lines, with `grain` of that many steps (uniform) that is new
/// for each film frame that a line shows.
inline Image drawFields(const Scenery& scenery, double topMoment, double bottomMoment, int width, int height,
                        double grain = 0) {
    Image image(width, height, {.model = ColourModel::grey});
    for (int y = 0; y < height; ++y) {
        const double t = y % 2 == 0 ? topMoment : bottomMoment;
        const auto grainSeed = static_cast<std::int64_t>(std::lround(t * 100));
        auto row = image.row<std::uint8_t>(0, y);
        for (int x = 0; x < width; ++x) {
            const double noise = grain > 0 ? grain * (2 * hashed(x, y, grainSeed + 77) - 1) : 0;
            row[static_cast<std::size_t>(x)] =
                static_cast<std::uint8_t>(std::clamp(scenery(x, y, t) + noise, 0.0, 255.0));
        }
    }
    return image;
}

/// The film moments that the top and bottom lines of coded frame `n` show.
struct FieldMoments {
    double top, bottom;
};

/// 2:3 pulldown as telecines do it, starting at place `phase` of the cycle: AA BB BC CD DD.
inline FieldMoments pulldown32(std::int64_t n, int phase, bool topFirst) {
    const std::int64_t place = (n + phase) % 5;
    const std::int64_t cycle = (n + phase) / 5;
    const auto film = static_cast<double>(cycle * 4);
    const double first = film + std::vector<double>{0, 1, 1, 2, 3}[static_cast<std::size_t>(place)];
    const double second = film + std::vector<double>{0, 1, 2, 3, 3}[static_cast<std::size_t>(place)];
    return topFirst ? FieldMoments{first, second} : FieldMoments{second, first};
}

/// 2:3:3:2 pulldown: AA BB BC CC DD.
inline FieldMoments pulldown2332(std::int64_t n, int phase, bool topFirst) {
    const std::int64_t place = (n + phase) % 5;
    const std::int64_t cycle = (n + phase) / 5;
    const auto film = static_cast<double>(cycle * 4);
    const double first = film + std::vector<double>{0, 1, 1, 2, 3}[static_cast<std::size_t>(place)];
    const double second = film + std::vector<double>{0, 1, 2, 2, 3}[static_cast<std::size_t>(place)];
    return topFirst ? FieldMoments{first, second} : FieldMoments{second, first};
}

} // namespace yarngap::test
