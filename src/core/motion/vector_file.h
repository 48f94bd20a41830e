// Vectors of a gap as a file.
#pragma once

#include "core/motion/vectors.h"

#include <filesystem>
#include <string>

namespace yarngap {

/// Writes vectors as an OpenEXR file of half floats, without loss for what estimateFlow() gives (it rounds to
/// halves itself). Channels, one sample per pixel of the picture:
///
///     forward.X   forward.Y    displacement from the first frame to the second: pixels, x right, y down
///     forward.trust            0 (none) to 1
///     backward.X  backward.Y   the same from the second frame to the first, on the pixels of the second
///     backward.trust
///
/// The attribute yarngap:key holds `key`, which says what they are vectors of. The file appears under its
/// name only when it is whole. Throws Error (folder missing or read-only, disk full).
void writeVectors(const std::filesystem::path& file, const Vectors& vectors, const std::string& key);

/// Vectors with what they are of.
struct KeyedVectors {
    Vectors vectors;
    std::string key; ///< empty when the file has none
};
/// What writeVectors() wrote, or any OpenEXR file with these channels in any order and any float type; trust
/// channels may be missing (then full trust). Throws Error for what is no such file, is damaged, or holds a
/// number that is none; also, before memory is taken, for pictures of another size than `width` x `height`,
/// where those are given.
KeyedVectors readVectors(const std::filesystem::path& file, int width = 0, int height = 0);

} // namespace yarngap
