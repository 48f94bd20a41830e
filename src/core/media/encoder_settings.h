// How FFmpeg's encoders are set for a format. Internal to media/.
#pragma once

#include "core/image/ffmpeg_image.h"
#include "core/media/media_facts.h"
#include "core/media/output_format.h"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace yarngap {

/// FFmpeg's name of the encoder.
[[nodiscard]] const char* encoderFor(OutputFormat format);
/// The quality chosen, or the usual one for frames of `layout`; absent where nothing is lost.
[[nodiscard]] std::optional<int> qualityFor(const FormatChoice& choice, const PixelLayout& layout);
/// Pixel formats that a grade of ProRes or DNxHR has; empty for other formats.
[[nodiscard]] std::vector<AVPixelFormat> formatsOfGrade(OutputFormat format, int grade);
/// Options of the encoder.
[[nodiscard]] std::vector<std::pair<std::string, std::string>>
encoderSettings(const FormatChoice& choice, const PixelLayout& layout, Scan scan);

} // namespace yarngap
