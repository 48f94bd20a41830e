// What the pictures of a shot show, whatever the file claims.
#pragma once

#include "core/inspection/cadence.h"
#include "core/inspection/camera_shake.h"
#include "core/inspection/clean_findings.h"
#include "core/inspection/drops.h"
#include "core/inspection/held_frames.h"
#include "core/inspection/held_parts.h"
#include "core/inspection/repeats.h"
#include "core/media/media_index.h"
#include "core/progress.h"
#include "core/time/frame_plan.h"

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace yarngap {

/// Findings from all frames of a file.
struct ShotFindings {
    std::int64_t frames = 0;
    std::vector<CadenceRun> cadence; ///< covers all frames
    std::vector<std::int64_t> cuts;  ///< first frames after a cut
    /// First fields after each cut, where 2n and 2n + 1 are those of frame n in the order of time. Of
    /// progressive frames always the first.
    std::vector<std::int64_t> cutFields;
    std::vector<std::int64_t> undecodable; ///< frames without a picture; only `inspectShot` finds them
    Repeats repeats;
    HeldPart heldPart;       ///< looked for where the whole picture keeps no such rhythm
    CameraShake camera;      ///< of progressive shots; only `inspectShot` finds it
    std::vector<Drop> drops; ///< frames lost before this file was made; only `inspectShot` finds them
    CleanFindings clean;     ///< what may be put right before anything is made; damage only by `inspectShot`
    /// By how much each part of a frame changes beside the camera's motion, where that was looked at.
    std::vector<CellChanges> besideCamera;
    std::int64_t otherSizes = 0;     ///< frames of another size than the first, which are scaled to it
    std::int64_t firstOtherSize = 0; ///< the first of them
    /// Median over frames of how far the mean luma lies from that of both neighbours, in 8-bit steps.
    double flicker = 0;
    double typicalChange = 0; ///< median over frames of the mean change to the frame before, in 8-bit steps

    /// The cadence that most of the evidence speaks for.
    [[nodiscard]] CadenceKind kind() const;
    /// Field order of that cadence.
    [[nodiscard]] bool topFirst() const;
    /// False when nothing moves enough to tell.
    [[nodiscard]] bool decided() const;
    /// First frames after a break of a pulldown cadence.
    [[nodiscard]] std::vector<std::int64_t> breaks() const;
    /// "3:2 pulldown, top field first, 1 break at frame 60", "progressive, shot on twos", "too quiet to
    /// tell the scan".
    [[nodiscard]] std::string describe() const;
};

/// From measures alone; used by `inspectShot` and by tests.
ShotFindings findingsFrom(std::span<const FrameMetrics> frames);

/// What is looked for in a file: all that can be told of it, or only what frames are made by, which is sooner
/// found. Then nothing is told of damage and lost frames.
enum class LookedFor { all, making };

/// Decodes the whole file once, from start to end, and measures it. A frame that cannot be decoded is taken
/// to be the one before it. Throws Error when none can, SourceLost when the file is gone, changed or cannot
/// be read, or Cancelled.
ShotFindings inspectShot(const std::shared_ptr<const MediaIndex>& index, const Progress& progress = {},
                         const std::stop_token& stop = {}, LookedFor what = LookedFor::all);

} // namespace yarngap
