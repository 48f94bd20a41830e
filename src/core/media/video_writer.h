// Video files by FFmpeg. Internal to media/; see frame_writer.h.
#pragma once

#include "core/media/frame_writer.h"

namespace yarngap {

std::unique_ptr<FrameWriter> openVideoWriter(const WriterOptions& options);
std::unique_ptr<FrameWriter> openPictureWriter(const WriterOptions& options);

/// Hidden name beside `target` under which it is written until complete.
std::filesystem::path temporaryName(const std::filesystem::path& target);
/// The error of a failed write, in words, by its errno value.
[[nodiscard]] std::string writeFailure(const std::filesystem::path& target, int errnoValue);

} // namespace yarngap
