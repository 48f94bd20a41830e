#include "app/look/wrapping_row.h"

#include <algorithm>
#include <utility>

namespace yarngap::app {

namespace {

int heightOf(const std::vector<QLayoutItem*>& line) {
    int height = 0;
    for (const QLayoutItem* item : line)
        height = std::max(height, item->sizeHint().height());
    return height;
}

} // namespace

WrappingRow::WrappingRow(Rest rest)
    : rest_(rest) {}

WrappingRow::~WrappingRow() = default;

void WrappingRow::addItem(QLayoutItem* item) {
    items_.emplace_back(item);
    if (std::exchange(isGapNext_, false)) apart_.push_back(item);
}

int WrappingRow::roomBefore(const QLayoutItem* item) const {
    constexpr int wide = 3;
    return std::ranges::find(apart_, item) == apart_.end() ? spacing() : wide * spacing();
}

int WrappingRow::lengthOf(const Line& line) const {
    int length = 0;
    for (const QLayoutItem* item : line)
        length += item->sizeHint().width() + (item == line.front() ? 0 : roomBefore(item));
    return length;
}

QLayoutItem* WrappingRow::itemAt(int index) const {
    return index >= 0 && index < count() ? items_[static_cast<std::size_t>(index)].get() : nullptr;
}

QLayoutItem* WrappingRow::takeAt(int index) {
    if (index < 0 || index >= count()) return nullptr;
    const auto at = items_.begin() + index;
    QLayoutItem* item = at->release();
    items_.erase(at);
    std::erase(apart_, item);
    return item;
}

QSize WrappingRow::sizeHint() const {
    const QMargins around = contentsMargins();
    Line all;
    for (const auto& item : items_)
        if (!item->isEmpty()) all.push_back(item.get());
    return {std::max(0, lengthOf(all)) + around.left() + around.right(),
            heightOf(all) + around.top() + around.bottom()};
}

QSize WrappingRow::minimumSize() const {
    QSize size;
    for (const auto& item : items_)
        if (!item->isEmpty()) size = size.expandedTo(item->sizeHint());
    const QMargins around = contentsMargins();
    return size + QSize(around.left() + around.right(), around.top() + around.bottom());
}

void WrappingRow::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    arranged(rect, true);
}

std::vector<WrappingRow::Line> WrappingRow::linesOf(int width) const {
    std::vector<Line> lines(1);
    int taken = 0;
    for (const auto& item : items_) {
        if (item->isEmpty()) continue;
        const int wide = item->sizeHint().width();
        if (!lines.back().empty()) taken += roomBefore(item.get());
        if (!lines.back().empty() && taken + wide > width) {
            lines.emplace_back();
            taken = 0;
        }
        taken += wide;
        lines.back().push_back(item.get());
    }
    return lines;
}

int WrappingRow::arranged(const QRect& rect, bool moves) const {
    const QMargins around = contentsMargins();
    const QRect inside = rect.marginsRemoved(around);
    int y = inside.top();
    for (const Line& line : linesOf(inside.width())) {
        const int height = heightOf(line);
        if (moves) place(line, {inside.left(), y, inside.width(), height});
        y += height + spacing();
    }
    return y - spacing() - rect.top() + around.bottom();
}

void WrappingRow::place(const Line& line, const QRect& rect) const {
    const int spare = std::max(0, rect.width() - lengthOf(line));
    const auto n = static_cast<int>(line.size());
    int x = rect.left() + (rest_ == Rest::atTheEnds ? spare / 2 : 0);
    for (int i = 0; i < n; ++i) {
        QLayoutItem* item = line[static_cast<std::size_t>(i)];
        // Whole pixels, of which the first get one more.
        const int more = rest_ == Rest::shared ? spare / n + (i < spare % n ? 1 : 0) : 0;
        const int wide = std::min(item->sizeHint().width() + more, rect.width());
        if (i > 0) x += roomBefore(item);
        item->setGeometry({x, rect.top(), wide, rect.height()});
        x += wide;
    }
}

} // namespace yarngap::app
