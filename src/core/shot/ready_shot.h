// From a shot to its frames: the one place where everything in between is put together.
#pragma once

#include "core/cleaning/cleaned_source.h"
#include "core/finish/frames_with_finish.h"
#include "core/media/frame_source.h"
#include "core/media/shot_frames.h"
#include "core/mending/carried_outlines.h"
#include "core/shot/shot.h"
#include "core/shot/source_axis.h"
#include "core/synthesis/planned_frames.h"
#include "core/time/frame_plan.h"

#include <memory>
#include <optional>

namespace yarngap {

/// The source frames of a shot, ready to be read.
struct Footage {
    std::shared_ptr<const MediaIndex> index;
    std::shared_ptr<const SourceAxis> axis;
    std::shared_ptr<ShotFrames> frames;      ///< counted along the axis
    std::shared_ptr<ShotFrames> interpreted; ///< the same before the cleanup; the source sheet shows them
};

/// Opens the frames of a file anew. Of decoded ones `cacheBytes` are kept, and as many of what
/// interpretation and cleanup make of them. Throws Error when `interpretation` does not suit the file.
Footage footageOf(const std::shared_ptr<const MediaIndex>& index, const Interpretation& interpretation,
                  std::size_t cacheBytes, const Cleanup& cleanup = {}, const CleaningMeans& means = {});
/// The same with an axis of that file and a source that has kept some of its frames. Of what is made of
/// those, `madeBytes` are kept.
Footage footageOf(const std::shared_ptr<const MediaIndex>& index, std::shared_ptr<const SourceAxis> axis,
                  const std::shared_ptr<FrameSource>& coded, std::size_t madeBytes,
                  const CleaningMeans& means = {});

/// What frames are made with beside what the shot itself asks for.
struct Making {
    std::shared_ptr<VectorStore> vectors;
    std::shared_ptr<FrameFolder> finished = nullptr; ///< where finished frames are kept; null: nowhere
    std::shared_ptr<RemakeErrors> remakes = nullptr; ///< shared with makers of other settings; null: its own
    std::shared_ptr<CarriedOutlines::Memory> outlines = nullptr; ///< of patches, likewise
    std::shared_ptr<FramesWithFinish::Memory> unfinished =
        nullptr;                                 ///< frames before their finish; null: nowhere
    bool isFinal = true;                         ///< at the quality of renders; else at that of the screen
    std::optional<Timing> timing = std::nullopt; ///< in place of the shot's own
};

/// The plan of `shot` along `axis`. `found` counts frames of the axis. Throws Error for timing that cannot
/// be.
FramePlan planOf(const Shot& shot, const SourceAxis& axis, const Timing& timing, const GapFindings& found);

/// A shot of which every output frame can be made.
struct ReadyShot {
    Timing timing;
    std::shared_ptr<const FramePlan> plan;
    OutputFramesPtr frames;
    OutputFramesPtr unfinished;                   ///< the same before their finish
    std::shared_ptr<const PlannedFrames> planned; ///< those before patches are laid on them
};

/// Makes `shot` ready: its plan along the axis of `footage`, and the frames of that plan.
/// Throws what planOf() throws.
///
///     const Footage footage = footageOf(index, shot.interpretation, 128 << 20);
///     const ReadyShot ready = readyShot(shot, footage, footage.axis->findings(measured), {vectors});
///     MadeFrame frame = ready.frames->make(7);
ReadyShot readyShot(const Shot& shot, const Footage& footage, const GapFindings& found, const Making& making);

} // namespace yarngap
