#include "app/window/mending_rows.h"

#include "app/look/theme.h"

#include <QLocale>
#include <QPainter>
#include <QStyledItemDelegate>

#include <cmath>
#include <utility>

namespace yarngap::app {

namespace {

constexpr int rowHeight = 76;

QString stateWords(const MendingRow& row) {
    switch (row.state) {
    case GapState::open:
        return MendingModel::tr("open");
    case GapState::mended:
        return row.mend.isEmpty() ? MendingModel::tr("mended") : MendingModel::tr("mended: %1").arg(row.mend);
    case GapState::accepted:
        return MendingModel::tr("accepted");
    }
    return {};
}

QString headOf(const MendingRow& row) {
    return row.gap.last > row.gap.first + 1
               ? MendingModel::tr("Gap %1 to %2").arg(row.gap.first).arg(row.gap.last)
               : MendingModel::tr("Gap %1").arg(row.gap.first);
}

/// A row: the doubtful place, the gap, its doubt as number and bar, the words, the state.
class Painter : public QStyledItemDelegate {
  public:
    explicit Painter(const MendingModel& model, QObject* parent)
        : QStyledItemDelegate(parent)
        , model_(model) {}

    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {200, rowHeight};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const MendingRow& row = model_.rows().at(static_cast<std::size_t>(index.row()));
        const QRect r = option.rect;
        p->save();
        const bool isCurrent = option.state.testFlag(QStyle::State_Selected);
        p->fillRect(r.adjusted(0, 0, 0, -1), isCurrent ? shades().field : shades().paper);
        p->fillRect(r.left(), r.bottom(), r.width(), 1, shades().seam);
        if (isCurrent) p->fillRect(QRect(r.left(), r.top(), 3, r.height() - 1), shades().indigo);
        const QRect picture(r.left() + 8, r.top() + 8, mendingPicture.width(), mendingPicture.height());
        const auto image = index.data(Qt::DecorationRole).value<QImage>();
        p->setRenderHint(QPainter::SmoothPixmapTransform);
        if (image.isNull())
            p->fillRect(picture, colour::stage);
        else
            p->drawImage(picture, image);
        const QRect text(picture.right() + 8, r.top() + 5, r.right() - picture.right() - 14, r.height() - 10);
        p->setFont(textFont(12, QFont::DemiBold));
        p->setPen(shades().ink);
        const QRect head(text.left(), text.top(), text.width(), 16);
        p->drawText(head, Qt::AlignLeft | Qt::AlignVCenter, headOf(row));
        if (row.hasDoubt) {
            p->setPen(row.state == GapState::open ? shades().madder : shades().faint);
            p->drawText(head, Qt::AlignRight | Qt::AlignVCenter, QLocale().toString(row.gap.doubt, 'f', 2));
        }
        p->setFont(textFont(11));
        p->setPen(shades().faint);
        const QRect words(text.left(), text.top() + 17, text.width(), 30);
        p->drawText(words, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, wordsFor(row.gap, true));
        const QRect foot(text.left(), text.top() + 50, text.width(), 14);
        if (row.state != GapState::mended) p->drawText(foot, Qt::AlignLeft | Qt::AlignVCenter, row.timecode);
        p->setPen(row.state == GapState::open ? shades().faint : shades().indigo);
        p->drawText(foot, Qt::AlignRight | Qt::AlignVCenter,
                    p->fontMetrics().elidedText(stateWords(row), Qt::ElideRight, foot.width()));
        p->restore();
    }

  private:
    const MendingModel& model_;
};

} // namespace

QString wordsFor(const DoubtfulGap& gap, bool brief) {
    QStringList words;
    for (const DoubtReason reason : gap.why) {
        switch (reason) {
        case DoubtReason::movesFar:
            words << (brief ? MendingModel::tr("moves too far (%1 px)").arg(std::lround(gap.farthest))
                            : MendingModel::tr("moves too far (%1 px, %2 % of the width)")
                                  .arg(std::lround(gap.farthest))
                                  .arg(QLocale().toString(gap.widthShare * 100, 'f', 1)));
            break;
        case DoubtReason::uncovered:
            words << MendingModel::tr("something is uncovered");
            break;
        case DoubtReason::crossing:
            words << MendingModel::tr("things cross");
            break;
        case DoubtReason::leavesPicture:
            words << MendingModel::tr("leaves the picture");
            break;
        case DoubtReason::blurred:
            words << MendingModel::tr("is blurred");
            break;
        case DoubtReason::lightChanges:
            words << MendingModel::tr("light changes");
            break;
        case DoubtReason::jerks:
            words << MendingModel::tr("motion jerks");
            break;
        case DoubtReason::repeats:
            words << MendingModel::tr("repeats in texture");
            break;
        case DoubtReason::differs:
            words << MendingModel::tr("both pictures disagree");
            break;
        }
    }
    return words.join(QStringLiteral(", "));
}

MendingModel::MendingModel(const DoubtSearch& search, QObject* parent)
    : QAbstractListModel(parent)
    , search_(search) {}

void MendingModel::setRows(std::vector<MendingRow> rows) {
    beginResetModel();
    rows_ = std::move(rows);
    endResetModel();
}

int MendingModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}

QVariant MendingModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const MendingRow& row = rows_[static_cast<std::size_t>(index.row())];
    if (role == Qt::DecorationRole) return search_.picture(row.gap.first);
    if (role != Qt::DisplayRole && role != Qt::ToolTipRole) return {};
    QStringList words{headOf(row)};
    if (!row.timecode.isEmpty()) words << row.timecode;
    if (row.hasDoubt) words << tr("doubt %1").arg(QLocale().toString(row.gap.doubt, 'f', 2));
    if (!row.gap.why.empty()) words << wordsFor(row.gap);
    words << stateWords(row);
    return words.join(QStringLiteral(", "));
}

void MendingModel::picturesChanged() {
    if (!rows_.empty()) Q_EMIT dataChanged(index(0), index(rowCount() - 1), {Qt::DecorationRole});
}

QAbstractItemDelegate* mendingRowPainter(const MendingModel& model, QObject* parent) {
    return new Painter(model, parent);
}

} // namespace yarngap::app
