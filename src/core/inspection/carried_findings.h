// Findings made on the frames of a file, as the frames of a shot know them.
#pragma once

#include "core/inspection/shot_findings.h"
#include "core/media/interpretation.h"

namespace yarngap {

/// Cuts, repeats and shakes of the coded frames, carried to the frames that an interpretation makes of them.
///
/// A cut lies before one field. The gap before the first frame that shows anything of the new scene is a cut,
/// and so is the gap before the first that shows nothing of the old one: a frame woven of both stands alone.
/// A frame repeats the one before when all coded frames on the way to it are repeats. Shakes are kept where
/// two frames are neighbours in the file too, and turn with the picture.
/// `recipes` are those of the interpretation, see recipesFor().
GapFindings carriedFindings(const ShotFindings& findings, const std::vector<FrameRecipe>& recipes,
                            const Interpretation& interpretation);

} // namespace yarngap
