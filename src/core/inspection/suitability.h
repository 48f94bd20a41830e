// How far a shot can be slowed before its in-betweens become visible.
#pragma once

#include "core/inspection/picture_quality.h"
#include "core/inspection/shot_findings.h"
#include "core/media/shot_frames.h"

#include <string>
#include <vector>

namespace yarngap {

/// Measured on a dozen places of a shot: a real frame is made again from its two neighbours by quick optical
/// flow, and compared with itself. Motion is in pixels of the full picture per source frame.
struct Suitability {
    int placesTried = 0;
    int placesMoving = 0;     ///< of those; the rest stand still or lie across a cut
    double typicalMotion = 0; ///< median over places of the upper quartile of trusted vectors
    double largestMotion = 0; ///< largest over places of the 99th percentile, but for an eighth at the edges
    double largestShare = 0;  ///< largestMotion over the picture's width
    double visible = 0; ///< share of pixels that differ visibly from the real frame, mean over moving places
    double worstVisible = 0; ///< … at the worst place
    PictureQuality quality;  ///< medians over places
    double shake = 0; ///< median change of the whole picture's motion from one gap to the next, in pixels
    /// Lowest speed advised, 0 to 1. Editors' rule is 60 % for material of up to 30 fps, 40 % up to 60 fps,
    /// and each frame shown once at 24 fps above that; it is halved where under 0.1 % of the pixels of the
    /// test frames differ visibly, kept up to 1 %, and raised by half beyond, by four fifths from 4 % on.
    /// Never above 1.
    double lowestSpeed = 1;
    std::vector<std::string> remarks; ///< what to know, and what to do about it

    /// "Holds down to about 40 %." or why that cannot be told.
    [[nodiscard]] std::string sentence() const;
};

/// Takes 12 places spread over the shot. The frames must be whole ones: interpret fields and pulldown first.
/// Throws Error or Cancelled.
Suitability assessSuitability(ShotFrames& frames, const ShotFindings& findings,
                              const std::stop_token& stop = {});

/// The advice alone, from a rate and the visible share; see Suitability::lowestSpeed.
double advisedSpeed(const Rate& rate, double visible);

} // namespace yarngap
