// The mending list: doubtful gaps, worst first, each open, mended or accepted, and the cures for one of them.
#pragma once

#include "app/document/doubt_search.h"
#include "app/look/choice_box.h"
#include "app/window/mending_rows.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/settings/mend.h"
#include "core/time/rate.h"
#endif

#include <QLabel>
#include <QListView>
#include <QListWidget>
#include <QPushButton>
#include <QWidget>

#include <vector>

namespace yarngap::app {

/// Arrow keys walk the list, and the playhead goes along; Enter accepts a gap as it is, or takes that back;
/// Delete takes a mend out.
class MendingList : public QWidget {
    Q_OBJECT
  public:
    explicit MendingList(DoubtSearch& search, QWidget* parent = nullptr);

    /// The gaps of the current shot, with what is done about them.
    void setShot(const std::shared_ptr<const FramePlan>& plan, const Mending& mending, const Rate& rate);
    void setLimit(double limit);
    [[nodiscard]] double limit() const { return limit_; }
    /// How many are open, mended, accepted.
    struct Counts {
        int open = 0, mended = 0, accepted = 0;
    };
    [[nodiscard]] Counts counts() const { return counts_; }
    /// To the gap above the limit after or before this source place; nothing where there is none.
    void goToDoubtful(std::int64_t gap, int direction);
    [[nodiscard]] QListView& list() { return *list_; }

  Q_SIGNALS:
    void gapChosen(qint64 output);
    void mendAsked(const yarngap::Mending& changed, const QString& what);
    /// The gaps are to be run through at their own speed, or passed quickly.
    void timingMendAsked(const yarngap::GapRange& gaps, bool quickly);
    void left(); ///< the keys go back to the transport

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void buildList();
    void buildCures();
    void refresh();
    void showCures();
    void showButtons();
    void takeCure(int row);
    void accept();
    void takeMendOut();
    [[nodiscard]] const MendingRow* current() const;
    [[nodiscard]] std::int64_t gapOf(const DoubtfulGap& gap) const;

    DoubtSearch& search_;
    std::shared_ptr<const FramePlan> plan_;
    Mending mending_;
    Rate rate_;
    double limit_ = usualDoubtLimit;
    std::int64_t at_ = -1; ///< first source frame of the gap that was chosen last
    Counts counts_;
    QLabel* state_;
    ChoiceBox* filter_;
    ChoiceBox* order_;
    MendingModel* model_;
    QListView* list_;
    QPushButton* accept_;
    QPushButton* try_;
    QPushButton* out_;
    QPushButton* through_;
    QPushButton* quickly_;
    QLabel* curesWords_;
    QListWidget* cures_;
};

} // namespace yarngap::app
