#include "core/finish/mapping.h"

#include "core/error.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

Plane Plane::after(const Plane& inner) const {
    return {a * inner.a + b * inner.d, a * inner.b + b * inner.e, a * inner.c + b * inner.f + c,
            d * inner.a + e * inner.d, d * inner.b + e * inner.e, d * inner.c + e * inner.f + f};
}

Plane Plane::inverse() const {
    const double area = a * e - b * d;
    if (!(std::abs(area) > 1e-12) || !std::isfinite(area))
        throw Error("The picture is scaled to nothing. Choose a larger scale.");
    return {e / area, -b / area, (b * f - c * e) / area, -d / area, a / area, (c * d - a * f) / area};
}

Plane Plane::scaledAbout(const PicturePoint& centre, double scale) {
    return {scale, 0, centre.x * (1 - scale), 0, scale, centre.y * (1 - scale)};
}

Plane Plane::turned(double angle, double scale) {
    const double re = scale * std::cos(angle);
    const double im = scale * std::sin(angle);
    return {re, -im, 0, im, re, 0};
}

PicturePoint Lens::operator()(const PicturePoint& p) const {
    const double x = (p.x - centre.x) * stretch;
    const double y = p.y - centre.y;
    const double r2 = std::min(1.0, (x * x + y * y) / (radius * radius));
    const double scale = 1 - amount * (1 - r2);
    return {centre.x + scale * (p.x - centre.x), centre.y + scale * y};
}

} // namespace yarngap
