// Pictures in rows on a page, each with room for words below.
#pragma once

#include <QRectF>
#include <QSize>

#include <cstdint>

namespace yarngap::app {

/// They fill the width, and as many rows as go in whole.
struct PageGrid {
    static constexpr double margin = 16;  ///< at the sides of the page
    static constexpr double between = 12; ///< two pictures

    int columns = 1, rows = 1;
    double across = 1, down = 1; ///< of a cell, with its margin
    QSizeF picture;
    double top = 0;

    /// Of a page of `size` with pictures of this aspect, and words `caption` high below each.
    PageGrid(const QSize& size, double aspect, double caption);

    [[nodiscard]] std::int64_t count() const { return std::int64_t{columns} * rows; }
    /// Where the picture lies that is number `i` on the page, from 0.
    [[nodiscard]] QRectF placeOf(std::int64_t i) const;
};

} // namespace yarngap::app
