// Vectors as the program keeps them for itself: quick to write and to read. Files for others are OpenEXR, see
// vector_file.h.
#pragma once

#include "core/motion/vectors.h"

#include <filesystem>
#include <string>

namespace yarngap {

/// Writes vectors without loss for what estimateFlow() gives, which are halves already. `others` are not
/// kept.
///
/// Strips of rows follow a header. In each, every component is held as halves, less the one on its left, low
/// bytes and high bytes apart, since motion is smooth and its high bytes are mostly zero; then packed by
/// LZ4. The file appears under its name only when it is whole. Throws
/// Error.
void writeKeptVectors(const std::filesystem::path& file, const Vectors& vectors, const std::string& key);

/// Those kept under `key` for pictures of this size; null when the file is of others. Throws Error when it is
/// damaged.
VectorsPtr readKeptVectors(const std::filesystem::path& file, const std::string& key, int width, int height);

} // namespace yarngap
