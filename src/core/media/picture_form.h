// How a frame becomes a picture file. Internal to media/.
#pragma once

#include "core/files/new_file.h"
#include "core/media/frame_writer.h"

#include <string>
#include <vector>

namespace yarngap {

/// Writes `image` as a picture of the format of `options`; `timecode`: that of the frame, may be empty.
/// `file` is left to be finished. Throws Error.
void writePictureOf(const Image& image, const WriterOptions& options, const std::string& timecode,
                    NewFile& file);

/// What such pictures cannot keep of the frames, a sentence each.
std::vector<std::string> lossesOfPictures(const WriterOptions& options);

} // namespace yarngap
