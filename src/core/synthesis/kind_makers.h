// How frames of each kind are made.
#pragma once

#include "core/synthesis/frame_context.h"
#include "core/synthesis/frame_in_making.h"

#include <memory>
#include <string>

namespace yarngap {

/// The way in which frames of one kind are made.
struct KindMaker {
    /// What the picture of a row depends on: equal exactly when frames, place in the gap and settings are.
    std::string (*key)(const FrameContext& context, const PlanRow& row);
    std::unique_ptr<FrameInMaking> (*begin)(FrameContextPtr context, const PlanRow& row);
};

extern const KindMaker shownFrames;   ///< originals, repeats, held frames: the source frame, bit for bit
extern const KindMaker blendedFrames; ///< weighted means of source frames
extern const KindMaker flowFrames;    ///< moments of a gap, moved along its motion
extern const KindMaker partedFrames;  ///< the same where subject and background have gaps of their own
extern const KindMaker blurredFrames; ///< means of such moments, while a shutter is open

[[nodiscard]] const KindMaker& kindMakerOf(const PlanRow& row);

} // namespace yarngap
