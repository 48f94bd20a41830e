// Reading back what was written.
#pragma once

#include "core/media/frame_writer.h"

#include <string>
#include <vector>

namespace yarngap {

/// What the header of a written video says otherwise than it was asked to, a sentence each: colour tags,
/// scan, size, rate and timecode. Nothing for sequences, or when it cannot be read.
std::vector<std::string> differencesOfWritten(const WriterOptions& options);

} // namespace yarngap
