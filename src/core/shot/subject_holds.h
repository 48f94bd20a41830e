// Frames in which the subject of a matte is held.
#pragma once

#include "core/inspection/shot_findings.h"
#include "core/shot/source_axis.h"
#include "core/synthesis/matte.h"

#include <stop_token>
#include <vector>

namespace yarngap {

/// Coded frames in which what lies inside `matte` repeats what the frame before shows, with the camera's
/// motion taken away (see heldFrames). Keys and pictures of the matte count the frames of `axis`. Of a shot
/// whose camera was not looked at, nothing. Throws Error when the matte's pictures cannot be read, Cancelled.
std::vector<FoundFrame> subjectHolds(const ShotFindings& findings, const Matte& matte, const SourceAxis& axis,
                                     const std::stop_token& stop = {});

} // namespace yarngap
