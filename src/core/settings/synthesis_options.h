// How an in-between is put together once its motion is known.
#pragma once

#include <string>
#include <string_view>

namespace yarngap {

/// Which motion covers the other where two cross.
enum class InFront {
    judged, ///< per pixel, by how well both source frames agree along each
    slower, ///< the slower one: things before which something fast passes
    faster  ///< the faster one: a subject before a background
};

/// Which source frames pixels may come from.
enum class Sides { both, before, after };

/// What is shown where the motion is not to be trusted.
enum class StandIn {
    blend,  ///< a cross-fade of both source frames
    repeat, ///< the nearer source frame as it is
    side    ///< the moved picture of the nearer source frame alone
};

[[nodiscard]] std::string_view name(InFront value);
[[nodiscard]] std::string_view name(Sides value);
[[nodiscard]] std::string_view name(StandIn value);
/// Read what name() gives; throw Error listing the values.
InFront parseInFront(std::string_view text);
Sides parseSides(std::string_view text);
StandIn parseStandIn(std::string_view text);

struct SynthesisOptions {
    /// Change when the wrong thing shows on top where two motions cross.
    InFront inFront = InFront::judged;
    /// Change to take pixels of one source frame only, where the other is damaged or shows what must not.
    Sides sides = Sides::both;
    /// Below this trust, in percent, a pixel comes from the stand-in; 0 never. Raise it where things tear.
    int trustLimit = 0;
    StandIn standIn = StandIn::blend;
    /// Every frame goes through synthesis with both source frames in equal parts, so that sharpness and grain
    /// do not pulse between originals and made frames. Off: originals are shown untouched.
    bool evenTexture = false;
    /// Frames that show again what the one before shows are passed over, so that motion goes on evenly. Off:
    /// they are shown like any other, for holds that are meant.
    bool bridgeRepeats = true;
    /// Things are placed on the curve that the gaps beside show, not on the straight line between two frames;
    /// not in drafts. Turn it off where motion jerks and made frames overshoot.
    bool bendPaths = true;
    /// Made frames keep the strength of the shot's grain, which mixing two pictures would weaken.
    bool keepGrain = false;
    /// Pictures are mixed as light, not as encoded values: highlights stay bright where they cross.
    bool linearLight = false;
    /// Motion blur along the vectors, as of a shutter open for this part of an output frame: 180° is half of
    /// it, 0 none. At most 720.
    int shutterAngle = 0;

    static constexpr int strictestTrust = 100;
    static constexpr int largestShutterAngle = 720;

    friend bool operator==(const SynthesisOptions&, const SynthesisOptions&) = default;
};

/// Different for options that make different frames.
std::string keyOf(const SynthesisOptions& options);

} // namespace yarngap
