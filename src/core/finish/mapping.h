// From each place of the result to the place of the made frame that is seen there.
#pragma once

#include "core/image/picture_point.h"

#include <array>

namespace yarngap {

/// x' = a x + b y + c, y' = d x + e y + f. Plane geometry in one value, so that any number of parts is one.
struct Plane {
    double a = 1, b = 0, c = 0, d = 0, e = 1, f = 0;

    [[nodiscard]] PicturePoint operator()(const PicturePoint& p) const {
        return {a * p.x + b * p.y + c, d * p.x + e * p.y + f};
    }
    /// First `inner`, then this.
    [[nodiscard]] Plane after(const Plane& inner) const;
    /// Throws Error where it cannot be undone.
    [[nodiscard]] Plane inverse() const;

    static Plane shift(double x, double y) { return {1, 0, x, 0, 1, y}; }
    static Plane scaled(double x, double y) { return {x, 0, 0, 0, y, 0}; }
    /// Scaled about a point.
    static Plane scaledAbout(const PicturePoint& centre, double scale);
    /// Turned by an angle (radians, from x towards y) and scaled, about the origin.
    static Plane turned(double angle, double scale);

    friend bool operator==(const Plane&, const Plane&) = default;
};

/// A bulge, as of a lens: a place at the share r of the distance from `centre` to `radius` shows what lies at
/// r (1 − amount (1 − r²)), so that the middle grows and the corners stay.
struct Lens {
    PicturePoint centre;
    double radius = 1;
    double stretch = 1; ///< width over height of a pixel, so that the bulge is round
    double amount = 0;  ///< 0 to 0.5

    [[nodiscard]] PicturePoint operator()(const PicturePoint& p) const;
    friend bool operator==(const Lens&, const Lens&) = default;
};

/// In pixels from the outer corners of both pictures: first the lens, then the plane.
struct Mapping {
    Plane toSource;
    Lens lens;

    [[nodiscard]] PicturePoint operator()(const PicturePoint& p) const {
        return toSource(lens.amount > 0 ? lens(p) : p);
    }
    [[nodiscard]] bool isNothing() const { return lens.amount <= 0 && toSource == Plane(); }
    friend bool operator==(const Mapping&, const Mapping&) = default;
};

} // namespace yarngap
