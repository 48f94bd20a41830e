// The decisions that the pictures of a shot call for.
#pragma once

#include "core/cleaning/cleanup.h"
#include "core/inspection/shot_findings.h"
#include "core/media/interpretation.h"

#include <cstdint>
#include <span>
#include <vector>

namespace yarngap {

/// What must stand still for a frame to be passed over.
enum class LookAt {
    picture, ///< the whole picture
    figure,  ///< what moves most, once the camera's own motion is taken away
    subject  ///< what lies inside the shot's matte, and that alone is passed over
};

[[nodiscard]] std::string_view name(LookAt value);
/// Reads what name() gives; throws Error listing the words.
LookAt parseLookAt(std::string_view text);

/// How sure the search must be, unless somebody says otherwise; see docs/quality.md.
inline constexpr double usualCertainty = 0.8;

struct FoundOptions {
    double certainty = usualCertainty; ///< what is less certain is left alone, 0 to 1
    LookAt lookAt = LookAt::picture;
    /// Holds inside the matte, for LookAt::subject; see subjectHolds().
    std::span<const FoundFrame> subjectHolds = {};
};

/// A decision for each finding, in order: repeats and holds are passed over, damaged places restored, bad
/// frames rebuilt, lost ones put in. `recipes` are those of the interpretation.
/// Findings on coded frames go to the interpreted frames that are those, untouched; of frames made from
/// fields nothing is told.
std::vector<CleanupDecision> foundDecisions(const ShotFindings& findings,
                                            const std::vector<FrameRecipe>& recipes,
                                            const FoundOptions& options = {});

} // namespace yarngap
