// How a hand-held camera speeds up and slows down inside the gaps of a shot, told by its motion blur.
#pragma once

#include "core/inspection/camera_step.h"
#include "core/time/shake.h"

#include <array>
#include <span>
#include <stop_token>
#include <vector>

namespace yarngap {

/// What the steps of a shot tell of its camera.
struct CameraShake {
    /// How long each frame was exposed, as a share of the time between frames, 0 to 1; 0 where the blur of
    /// the shot does not follow its motion, or too little moves unevenly to tell.
    double exposure = 0;
    double certainty = 0;    ///< of that, in standard errors
    std::vector<Shake> gaps; ///< in order; only those that can be told

    friend bool operator==(const CameraShake&, const CameraShake&) = default;
};

/// `steps[n]` leads from frame n to n + 1.
///
/// Where things are between two frames depends on the speeds at both, which positions alone do not give: a
/// hand shakes faster than frames are taken. Motion blur does. A frame exposed for the share s of a frame's
/// time while the picture moves at v is blurred with second moments s² v vᵀ / 12, so that blur changes over
/// a gap by
///
///     ΔC = g (v₁ v₁ᵀ − v₀ v₀ᵀ),  g = s² / 12.
///
/// g is fitted to all gaps with v of the cubic spline through the positions, and believed when it is positive
/// by three and a half standard errors. What the moments along and across share, which compression changes as
/// well, counts by its own scatter.
///
/// Speed is taken to wander (an integrated Wiener process), of which the spline is what positions tell
/// (Wahba 1978). The speeds returned are those to be expected by positions and blur together, by sums over
/// candidates forward and backward along the chain of frames. The likeliest ones would not do: at a turning
/// point blur does not say which way. Shake::told is 1 where blur takes a third or more off the variance of
/// their difference, 0 where it adds nothing to what positions tell. Throws Cancelled.
CameraShake cameraShake(std::span<const CameraStep> steps, const std::stop_token& stop = {});

/// Measures frames handed over in display order. Not thread-safe.
class CameraMeter {
  public:
    /// The next frame, or null where there is none to be had.
    void measure(const Image* frame);
    /// One step less than frames.
    [[nodiscard]] const std::vector<CameraStep>& steps() const { return steps_; }
    /// What each frame changes beside the camera's motion; of the first, and of those that were not to be
    /// had, nothing.
    [[nodiscard]] const std::vector<CellChanges>& changes() const { return changes_; }

  private:
    bool began_ = false;
    CameraPicturePtr before_;        ///< small
    std::array<CameraStep, 2> late_; ///< the last steps, latest first, of small pictures
    std::vector<CameraStep> steps_;
    std::vector<CellChanges> changes_;
};

} // namespace yarngap
