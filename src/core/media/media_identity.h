// What makes two media files the same.
#pragma once

#include "core/media/media_index.h"

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>

namespace yarngap {

/// XXH3 of some bytes, 64 bit.
std::uint64_t hashOf(std::span<const std::byte> bytes);

/// Tells the content of indexed media, under whatever name: of video, every byte of its packets; of a
/// sequence, which may be far too large to be read for this, the sizes of its pictures and parts of three of
/// them. Different for files whose pictures differ, but for sequences edited in place at the same size.
std::string mediaIdentity(const MediaIndex& index);

/// Whether both are of the form that mediaIdentity() gives today, so that they can be compared.
bool areComparable(std::string_view identity, std::string_view other);

/// What is kept of a medium is kept under this. Of video it is its identity. To the identity of a sequence it
/// adds when each picture was written, as the file system alone can tell: it changes with any change, and
/// with a copy too.
std::string mediaEdition(const MediaIndex& index);

} // namespace yarngap
