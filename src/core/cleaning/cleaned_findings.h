// Findings made on the interpreted frames of a shot, as its cleaned frames know them.
#pragma once

#include "core/cleaning/cleaned_frames.h"
#include "core/time/frame_plan.h"
#include "core/time/treatment.h"

#include <vector>

namespace yarngap {

/// Cuts, repeats and shakes of interpreted frames, carried to the frames of `origins` (see cleanedFrames).
///
/// A cut lies before the first frame that stands for the new scene and shows it. A frame repeats the one
/// before when it is untouched, not kept by the editor's word, and repeats what that one stands for. Frames
/// passed over are told apart from repeats that were found. Shakes are kept where nothing lies, or lay,
/// between both frames.
GapFindings cleanedFindings(const GapFindings& found, const Cleanup& cleanup,
                            const std::vector<FrameOrigin>& origins);

/// Marks of interpreted frames at the cleaned ones, with what the cleanup did. Those of frames taken out are
/// gone.
std::vector<SourceMark> cleanedMarks(const std::vector<SourceMark>& marks,
                                     const std::vector<FrameOrigin>& origins);

} // namespace yarngap
