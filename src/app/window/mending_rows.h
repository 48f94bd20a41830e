// The rows of the mending list: what they hold, say and look like.
#pragma once

#include "app/document/doubt_search.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/mending/doubt_list.h"
#endif

#include <QAbstractItemDelegate>
#include <QAbstractListModel>
#include <QSize>
#include <QString>

#include <vector>

namespace yarngap::app {

inline constexpr QSize mendingPicture(88, 50); ///< of a doubtful place

enum class GapState { open, mended, accepted };

/// A row of the list.
struct MendingRow {
    DoubtfulGap gap;
    GapState state = GapState::open;
    QString mend;     ///< the name of what mends it
    QString timecode; ///< of the output frame looked at
    bool hasDoubt = true;
};

/// "moves too far (54 px, 5.6 % of the width), things cross".
[[nodiscard]] QString wordsFor(const DoubtfulGap& gap, bool brief = false);

class MendingModel : public QAbstractListModel {
    Q_OBJECT
  public:
    explicit MendingModel(const DoubtSearch& search, QObject* parent = nullptr);
    void setRows(std::vector<MendingRow> rows);
    [[nodiscard]] const std::vector<MendingRow>& rows() const { return rows_; }
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    /// Qt::DisplayRole: all that is written in the row, for screen readers; Qt::DecorationRole: the picture.
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    void picturesChanged();

  private:
    const DoubtSearch& search_;
    std::vector<MendingRow> rows_;
};

/// Paints a row: the doubtful place, the gap, its doubt, the words, the state.
QAbstractItemDelegate* mendingRowPainter(const MendingModel& model, QObject* parent);

} // namespace yarngap::app
