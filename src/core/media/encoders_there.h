// Which formats this machine can write.
#pragma once

#include "core/media/output_format.h"

namespace yarngap {

/// Whether FFmpeg on this machine has the format's encoder.
[[nodiscard]] bool isEncoderThere(OutputFormat format);

} // namespace yarngap
