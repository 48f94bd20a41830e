// What is done to each output frame after it is made.
#pragma once

#include "core/finish/camera_path.h"
#include "core/finish/frame_fit.h"
#include "core/finish/hold.h"
#include "core/finish/smear.h"
#include "core/finish/texture.h"
#include "core/finish/tone.h"
#include "core/time/rational.h"

#include <cstddef>
#include <optional>
#include <vector>

namespace yarngap {

/// How far the picture is scaled in, so that no bare edge is seen.
struct HideEdges {
    double scale = 1; ///< about the middle of the picture, 1 to `most`
    /// Source places between which it is scaled in; absent: all through the shot.
    std::optional<Rational> from = {}, to = {};
    int fade = 12; ///< source frames over which it comes before `from` and goes after `to`

    static constexpr double most = 8;
    static constexpr int longestFade = 1000;

    friend bool operator==(const HideEdges&, const HideEdges&) = default;
};

/// A plain value. What it begins with touches nothing.
///
/// In this order: tone, then all geometry in one reading of the picture (calm, hold, frame, hidden edges,
/// place, lens of a smear), then softening, sharpening and smear, then grain, then what is around the
/// picture.
struct Finish {
    FrameChoice frame;
    std::vector<PlaceKey> places = {}; ///< scale and place by hand, on top of the fit; in order
    HideEdges hideEdges;
    Hold hold;
    Calm calm;
    std::vector<ToneKey> tones = {}; ///< in order
    Texture texture;
    std::vector<Smear> smears = {};

    static constexpr std::size_t mostKeys = 10'000;
    static constexpr std::size_t mostSmears = 1'000;

    /// Whether nothing is set.
    [[nodiscard]] bool isNothing() const;
    friend bool operator==(const Finish&, const Finish&) = default;
};

/// Throws Error, with what is wrong and what is allowed, unless all is in range and keys are in order.
void validate(const Finish& finish);

/// How far the edges are hidden at a source place.
double hidingScaleAt(const HideEdges& hide, const Rational& place);

} // namespace yarngap
