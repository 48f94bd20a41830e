// Damaged places as they are drawn and erased on a picture.
#pragma once

#include "core/cleaning/cleanup.h"

#include <QRectF>
#include <QSize>

#include <vector>

namespace yarngap::app {

/// The pixels of a picture of `size`, shown at `whole`, that `drawn` covers; empty off the picture.
[[nodiscard]] QRect pixelsOf(const QRectF& drawn, const QRectF& whole, const QSize& size);
/// Where pixels of a picture of `size`, shown at `whole`, lie.
[[nodiscard]] QRectF shownAt(const DamagedPlace& place, const QRectF& whole, const QSize& size);

/// With one place more.
[[nodiscard]] std::vector<DamagedPlace> withPlace(std::vector<DamagedPlace> places, const QRect& place);
/// Without what lies inside `place`; of places that reach beyond it the rest is left.
[[nodiscard]] std::vector<DamagedPlace> withoutPlace(const std::vector<DamagedPlace>& places,
                                                     const QRect& place);

} // namespace yarngap::app
