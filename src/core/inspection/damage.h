// Damage: frames, and places in them, that differ from what both neighbours agree on.
#pragma once

#include "core/image/image.h"
#include "core/inspection/camera_step.h"
#include "core/inspection/clean_findings.h"

#include <cstdint>
#include <memory>
#include <span>
#include <stop_token>
#include <vector>

namespace yarngap {

/// Looks for damage in frames handed over in display order. Not thread-safe.
///
/// A sample is suspicious when it lies outside what either neighbour shows within a pixel of the same place,
/// laid on it by the camera's motion, by more than noise does (after the rank-order detector of Nadenau and
/// Mitra 1997). Suspicious samples are gathered into places. A place is damage when the neighbours agree with
/// each other around it and in it, and when what it shows is found near it in neither of them: a thing that
/// flies past is somewhere in both. A band over nearly the whole width is damage without that, since shifted
/// lines are found beside themselves.
///
/// Where places of other frames lie as well, in more than one frame of eight, the scene itself does such
/// things: water glitters, leaves turn. There nothing is told.
///
/// Scratches that stay over frames are in the neighbours too; LastingScratches finds them.
///
/// A frame that differs nearly everywhere while its neighbours agree is bad as a whole, unless it shows their
/// outlines under more light, as in a flash.
class DamageMeter {
  public:
    DamageMeter();
    ~DamageMeter();
    DamageMeter(const DamageMeter&) = delete;
    DamageMeter& operator=(const DamageMeter&) = delete;
    DamageMeter(DamageMeter&&) = delete;
    DamageMeter& operator=(DamageMeter&&) = delete;

    /// The next frame, or null where there is none to be had; `step` leads to it from the one before, in
    /// pixels of the frame. `noise`: mean change of the stillest parts, in 8-bit steps.
    void measure(const ImagePtr& frame, const CameraStep& step, double noise);
    /// What was found, in order. Nothing is told of frames beside a cut; `cuts` are first frames of scenes.
    [[nodiscard]] std::vector<FoundDamage> found(std::span<const std::int64_t> cuts) const;

  private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace yarngap
