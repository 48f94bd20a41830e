// The timecode of a shot's frames.
#pragma once

#include "core/shot/source_axis.h"
#include "core/time/frame_plan.h"

#include <cstdint>
#include <string>

namespace yarngap {

/// Timecode of source frame `frame` of a shot whose file says where it begins; empty where it does not.
std::string sourceTimecode(const MediaIndex& index, const SourceAxis& axis, std::int64_t frame);

/// The same at another rate: "01:00:00:12" of a frame at 24 fps is "01:00:00:15" at 30 fps. Empty when
/// `timecode` is.
std::string timecodeAt(const std::string& timecode, const Rate& from, const Rate& to);

} // namespace yarngap
