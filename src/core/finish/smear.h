// Blur along the camera's direction that swells and ebbs, across a cut or a stretch.
#pragma once

#include "core/finish/float_picture.h"
#include "core/time/rational.h"

#include <span>
#include <string_view>

namespace yarngap {

/// Where in its stretch a smear is strongest.
enum class SmearPeak {
    start, ///< after a cut
    middle,
    end ///< before a cut
};
[[nodiscard]] std::string_view name(SmearPeak value);
SmearPeak parseSmearPeak(std::string_view text);

/// A plain value.
struct Smear {
    Rational from = 0, to = 0; ///< source places
    SmearPeak peak = SmearPeak::middle;
    double length = 0.12; ///< of the blur at its strongest, as a share of the frame's width, 0 to `longest`
    double angle = 0;     ///< direction of the camera there as it was measured, degrees from x towards y
    double turn = 0;      ///< by how much the editor turns it, degrees
    int bulge = 0;        ///< percent, 0 to 100

    static constexpr double longest = 1;

    friend bool operator==(const Smear&, const Smear&) = default;
};

/// What smears come to at one place.
struct SmearNow {
    double length = 0; ///< share of the frame's width
    double angle = 0;  ///< degrees
    double bulge = 0;  ///< 0 to 1

    [[nodiscard]] bool isNothing() const { return length <= 0 && bulge <= 0; }
};

/// How strong a smear is at a place, 0 to 1: sin² of the part of the stretch passed.
double strengthAt(const Smear& smear, double place);
/// The strongest of several.
SmearNow smearAt(std::span<const Smear> smears, double place);

/// Blurs along `angle` (degrees, in square pixels) over `length` pixels of the picture's height scale; each
/// pixel is the mean of what lies on a line through it. `aspect`: width over height of a pixel.
void smear(FloatPicture& picture, double length, double angle, double aspect);

} // namespace yarngap
