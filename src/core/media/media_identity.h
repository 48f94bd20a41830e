// What tells one media file from another, wherever it lies and whatever it is called.
#pragma once

#include "core/media/media_index.h"

#include <string>

namespace yarngap {

/// Identity from the size of a file and a hash over its first, middle and last 64 KiB and its packet table.
std::string mediaIdentity(const MediaIndex& index);

} // namespace yarngap
