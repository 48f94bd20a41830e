// Buttons in a row that goes on below: nothing is lost, over something else or beyond the edge.

#include "app/look/wrapping_row.h"

#include <QTest>
#include <QWidget>

using namespace yarngap::app;

namespace {

/// As wide as it is told, 20 high.
class Block : public QWidget {
  public:
    Block(int wide, QWidget* parent)
        : QWidget(parent)
        , wide_(wide) {}
    [[nodiscard]] QSize sizeHint() const override { return {wide_, 20}; }

  private:
    int wide_;
};

/// Blocks in a row with 4 between them.
struct Row {
    QWidget window;
    WrappingRow* layout;
    std::vector<Block*> blocks;

    Row(WrappingRow::Rest rest, std::initializer_list<int> widths)
        : layout(new WrappingRow(rest)) {
        layout->setContentsMargins(0, 0, 0, 0);
        layout->setSpacing(4);
        for (const int wide : widths) {
            blocks.push_back(new Block(wide, &window));
            layout->addWidget(blocks.back());
        }
        window.setLayout(layout);
    }
    /// Lays them out in `width`; the places.
    std::vector<QRect> places(int width) {
        window.show();
        layout->setGeometry({0, 0, width, layout->heightForWidth(width)});
        std::vector<QRect> out;
        for (const Block* block : blocks)
            out.push_back(block->geometry());
        return out;
    }
};

} // namespace

class TestWrappingRow : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void whatIsLeftIsShared() {
        Row row(WrappingRow::Rest::shared, {50, 60, 70});
        QCOMPARE(row.layout->sizeHint(), QSize(50 + 60 + 70 + 2 * 4, 20));
        QCOMPARE(row.layout->minimumSize(), QSize(70, 20));
        QCOMPARE(row.layout->heightForWidth(188), 20);
        const std::vector<QRect> places = row.places(198); // 10 more: 4, 3 and 3
        QCOMPARE(places[0], QRect(0, 0, 54, 20));
        QCOMPARE(places[1], QRect(58, 0, 63, 20));
        QCOMPARE(places[2], QRect(125, 0, 73, 20));
    }

    void whatHasNoRoomGoesBelow() {
        Row row(WrappingRow::Rest::shared, {50, 60, 70});
        QCOMPARE(row.layout->heightForWidth(187), 44); // one pixel too few
        const std::vector<QRect> places = row.places(130);
        QCOMPARE(places[0], QRect(0, 0, 58, 20));
        QCOMPARE(places[1], QRect(62, 0, 68, 20));
        QCOMPARE(places[2], QRect(0, 24, 130, 20));
    }

    void aGapIsKeptWithinALine() {
        Row row(WrappingRow::Rest::atTheEnds, {50, 60});
        row.layout->addGap();
        row.blocks.push_back(new Block(70, &row.window));
        row.layout->addWidget(row.blocks.back());
        QCOMPARE(row.layout->sizeHint().width(), 50 + 60 + 70 + 4 + 3 * 4);
        std::vector<QRect> places = row.places(196);
        QCOMPARE(places[1].left(), 54);
        QCOMPARE(places[2].left(), 54 + 60 + 12);
        places = row.places(195); // one pixel too few: below it stands alone, in the middle
        QCOMPARE(places[0].top(), 0);
        QCOMPARE(places[2], QRect(62, 24, 70, 20));
    }

    void whatIsLeftMayStayAtTheEnds() {
        Row row(WrappingRow::Rest::atTheEnds, {50, 60});
        const std::vector<QRect> places = row.places(134);
        QCOMPARE(places[0], QRect(10, 0, 50, 20));
        QCOMPARE(places[1], QRect(64, 0, 60, 20));
    }

    void noneIsWiderThanTheRow() {
        Row row(WrappingRow::Rest::shared, {90, 40});
        const std::vector<QRect> places = row.places(70);
        QCOMPARE(places[0], QRect(0, 0, 70, 20));
        QCOMPARE(places[1], QRect(0, 24, 70, 20));
    }

    void whatIsHiddenTakesNoRoom() {
        Row row(WrappingRow::Rest::shared, {50, 60, 70});
        row.window.show();
        row.blocks[1]->hide();
        QCOMPARE(row.layout->sizeHint(), QSize(50 + 70 + 4, 20));
        QCOMPARE(row.places(124)[2], QRect(54, 0, 70, 20));
        row.blocks[0]->hide();
        row.blocks[2]->hide();
        QCOMPARE(row.layout->sizeHint(), QSize(0, 0));
    }

    void widgetsCanBeTakenOut() {
        Row row(WrappingRow::Rest::shared, {50, 60});
        QCOMPARE(row.layout->count(), 2);
        QVERIFY(!row.layout->itemAt(2));
        QVERIFY(!row.layout->takeAt(-1));
        const std::unique_ptr<QLayoutItem> taken(row.layout->takeAt(0));
        QCOMPARE(taken->widget(), row.blocks[0]);
        QCOMPARE(row.layout->count(), 1);
        QCOMPARE(row.places(60)[1], QRect(0, 0, 60, 20));
    }
};

QTEST_MAIN(TestWrappingRow)
#include "test_wrapping_row.moc"
