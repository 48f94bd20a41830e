// Video files by FFmpeg. Internal to media/; see frame_writer.h.
#pragma once

#include "core/media/frame_writer.h"

namespace yarngap {

std::unique_ptr<FrameWriter> openVideoWriter(const WriterOptions& options);
std::unique_ptr<FrameWriter> openPictureWriter(const WriterOptions& options);

} // namespace yarngap
