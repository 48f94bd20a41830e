#include "app/stage/page_grid.h"

#include <algorithm>

namespace yarngap::app {

PageGrid::PageGrid(const QSize& size, double aspect, double caption) {
    constexpr double usual = 150; // width of a picture, about
    const double row = size.width() - 2 * margin + between;
    const double tall = std::min(usual / aspect, usual);
    columns = std::max(1, static_cast<int>(row / (tall * aspect + between)));
    const double wide = row / columns - between;
    picture = QSizeF(wide, wide / aspect);
    across = wide + between;
    down = picture.height() + caption;
    rows = std::max(1, static_cast<int>(size.height() / down));
    top = std::max(0.0, (size.height() - rows * down) / 2);
}

QRectF PageGrid::placeOf(std::int64_t i) const {
    const std::int64_t row = i / columns;
    const std::int64_t column = i % columns;
    return {QPointF(margin + across * static_cast<double>(column), top + down * static_cast<double>(row)),
            picture};
}

} // namespace yarngap::app
