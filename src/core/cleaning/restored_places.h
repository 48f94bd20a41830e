// Places of a picture taken from another picture of the same moment.
#pragma once

#include "core/cleaning/cleanup.h"
#include "core/image/image.h"

#include <vector>

namespace yarngap {

/// `frame` with the samples inside `places` from `other`, of the same size and layout; all others stay bit
/// for bit. In a narrow place they are made as much lighter or darker as `frame` is beside it. Inside the
/// edge of a place of 8 pixels or more one turns into the other over two pixels. A chroma sample belongs to a
/// place that covers any of its pixels. Parts of places beyond the picture are passed over.
Image withPlacesFrom(const Image& frame, const Image& other, const std::vector<DamagedPlace>& places);

} // namespace yarngap
