// Patches: soft-edged regions that show another version of the frame.
#pragma once

#include "core/image/picture_point.h"
#include "core/time/rational.h"

#include <cstddef>
#include <string_view>
#include <vector>

namespace yarngap {

/// What a patch shows.
enum class PatchShows {
    otherwise, ///< the frame made with other settings
    softened,  ///< the frame blurred
    nearest,   ///< the nearest source frame, moved along with the outline
    behind ///< what lies behind: from frames farther away in which it is seen, moved along with the camera
};
[[nodiscard]] std::string_view name(PatchShows value);
/// Reads what name() gives; throws Error listing the values.
PatchShows parsePatchShows(std::string_view text);

/// An outline as it was drawn at a place on the source axis.
struct PatchKey {
    Rational at; ///< source frame; with a fraction between two
    std::vector<PicturePoint> points;
    friend bool operator==(const PatchKey&, const PatchKey&) = default;
};

/// A plain value. The outline is carried along by the motion from one key to the next; see CarriedOutlines.
struct Patch {
    std::vector<PatchKey> keys; ///< one or more, in order; as many points in each, three at least
    PatchShows shows = PatchShows::softened;
    int blur = 8;             ///< radius of softening, pixels
    int feather = 12;         ///< pixels over which it goes from all to nothing, on each side of the outline
    int strength = 100;       ///< percent
    int fade = 0;             ///< source frames at each end over which it comes and goes
    bool onOriginals = false; ///< originals are patched too

    static constexpr int mostBlur = 200;
    static constexpr int mostFeather = 200;
    static constexpr int mostFade = 1000;
    static constexpr std::size_t mostPoints = 200;
    static constexpr std::size_t mostKeys = 10'000;

    friend bool operator==(const Patch&, const Patch&) = default;
};

/// Throws Error, with what is wrong, unless keys are in order, have as many points as each other, and all is
/// in range.
void validate(const Patch& patch);

/// The patch with this outline as its key at `at`.
Patch withKey(Patch patch, const Rational& at, std::vector<PicturePoint> points);

/// A point more in all outlines: half way between points `after` and the next.
Patch withPoint(Patch patch, std::size_t after);
/// A point less in all outlines; of a triangle none can go.
Patch withoutPoint(Patch patch, std::size_t point);

/// How much of a patch over source places `first` to `end` counts at `position`, 0 to 1.
double shareAt(const Patch& patch, const Rational& first, const Rational& end, const Rational& position);

} // namespace yarngap
