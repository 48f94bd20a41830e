// Numbered picture files as one shot: PNG, TIFF, EXR, DPX, JPEG through OpenImageIO.
#pragma once

#include "core/files/reading_thread.h"
#include "core/image/image.h"
#include "core/media/media_index.h"

#include <filesystem>
#include <memory>
#include <vector>

namespace yarngap {

inline constexpr int defaultSequenceRate = 24; ///< frames per second, as pictures carry none

/// True for the endings of picture files that are read: .png .tif .tiff .dpx .jpg .jpeg .exr.
bool isPictureFile(const std::filesystem::path& path);

/// The sequence that `picked` belongs to, see filesOf(): a missing number, a file of another size or kind,
/// and an unreadable one keep their place as frames that cannot be decoded; the remark tells which. Throws
/// Error or Cancelled.
MediaIndex buildSequenceIndex(const std::filesystem::path& picked, const Progress& progress = {},
                              const std::stop_token& stop = {});

/// `picked` itself, or the first picture of a pattern with #. Throws Error.
std::filesystem::path firstPictureOf(const std::filesystem::path& picked, const std::stop_token& stop = {});

/// One of each sequence among files that were opened together, in their order; other files are all kept.
/// Looks at names only.
std::vector<std::filesystem::path> oneOfEachSequence(const std::vector<std::filesystem::path>& files);

/// Facts of one picture file as a sequence of unknown length. Throws Error or Cancelled.
MediaFacts pictureFacts(const std::filesystem::path& file, const std::shared_ptr<ReadingThread>& reading,
                        const std::stop_token& stop = {});
/// Reads a picture into planes G B R (and alpha) or grey. Throws Error when it cannot be read or does not
/// suit `facts`, SourceLost when the disk fails, Cancelled when stopped.
Image readPicture(const std::filesystem::path& file, const MediaFacts& facts,
                  const std::shared_ptr<ReadingThread>& reading, const std::stop_token& stop = {});

} // namespace yarngap
