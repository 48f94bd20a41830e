// Buttons in a row that goes on below where it has no room.
#pragma once

#include <QLayout>

#include <memory>
#include <vector>

namespace yarngap::app {

/// Places widgets side by side at the width they ask for, on as many lines as that takes. What is left of a
/// line is shared out among its widgets, or kept at both ends.
class WrappingRow : public QLayout {
    Q_OBJECT
  public:
    enum class Rest { shared, atTheEnds };
    explicit WrappingRow(Rest rest);
    ~WrappingRow() override;

    void addItem(QLayoutItem* item) override;
    /// What is added next stands apart from what is before it on its line.
    void addGap() { isGapNext_ = true; }
    [[nodiscard]] int count() const override { return static_cast<int>(items_.size()); }
    [[nodiscard]] QLayoutItem* itemAt(int index) const override;
    QLayoutItem* takeAt(int index) override;
    [[nodiscard]] Qt::Orientations expandingDirections() const override { return {}; }
    [[nodiscard]] bool hasHeightForWidth() const override { return true; }
    [[nodiscard]] int heightForWidth(int width) const override { return arranged({0, 0, width, 0}, false); }
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSize() const override;
    void setGeometry(const QRect& rect) override;

  private:
    using Line = std::vector<QLayoutItem*>;
    /// Room between an item and the one before it on its line.
    [[nodiscard]] int roomBefore(const QLayoutItem* item) const;
    [[nodiscard]] int lengthOf(const Line& line) const;
    [[nodiscard]] std::vector<Line> linesOf(int width) const;
    /// Height of all lines; moves the widgets if `moves`.
    int arranged(const QRect& rect, bool moves) const;
    void place(const Line& line, const QRect& rect) const;

    Rest rest_;
    std::vector<std::unique_ptr<QLayoutItem>> items_;
    std::vector<const QLayoutItem*> apart_; ///< of them, those behind a gap
    bool isGapNext_ = false;
};

} // namespace yarngap::app
