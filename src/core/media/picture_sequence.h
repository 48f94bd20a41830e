// Numbered picture files as one shot: PNG, TIFF, EXR, DPX, JPEG through OpenImageIO.
#pragma once

#include "core/image/image.h"
#include "core/media/media_index.h"

#include <filesystem>
#include <string>

namespace yarngap {

inline constexpr int defaultSequenceRate = 24; ///< frames per second, as pictures carry none

/// True for the endings of picture files.
bool isPictureFile(const std::filesystem::path& path);
/// What the files of one sequence have in common: folder, name around the number, ending. The number is the
/// last run of digits in the name. Equal for all files of a sequence; the path itself for a name without
/// digits.
std::string sequencePattern(const std::filesystem::path& path);

/// The sequence that `picked` belongs to: all files of its pattern by number. A missing number, a file of
/// another size or kind, and an unreadable one keep their place as frames that cannot be decoded; the remark
/// tells which. Throws Error or Cancelled.
MediaIndex buildSequenceIndex(const std::filesystem::path& picked, const Progress& progress = {},
                              const std::stop_token& stop = {});

/// Facts of one picture file as a sequence of unknown length.
MediaFacts pictureFacts(const std::filesystem::path& file);
/// Reads a picture into planes G B R (and alpha) or grey. Throws Error when it cannot be read or does not
/// suit `facts`.
Image readPicture(const std::filesystem::path& file, const MediaFacts& facts);

} // namespace yarngap
