// The step Mend: doubtful gaps, and what is done about them.
#pragma once

#include "app/document/doubt_search.h"
#include "app/steps/gap_mends.h"
#include "app/steps/step_body.h"

#include <QLabel>
#include <QPushButton>
#include <QSlider>

#include <functional>

namespace yarngap::app {

class MendStep : public StepBody {
    Q_OBJECT
  public:
    MendStep(Workspace& workspace, DoubtSearch& search);
    QString refresh() override;

    struct Counts {
        int open = 0, mended = 0, accepted = 0;
    };
    /// How many gaps are in which state.
    void setCounts(const Counts& counts) { counts_ = counts; }
    [[nodiscard]] double limit() const;
    void setListShown(bool on);
    /// The mends of the gap at the playhead.
    [[nodiscard]] GapMends& gap() { return *gap_; }
    /// The line of the step when it is closed.
    [[nodiscard]] QString outcome() const;

  Q_SIGNALS:
    void limitChanged(double limit);
    void listAsked(bool on);
    void mendAllAsked();

  private:
    void showState();

    DoubtSearch& search_;
    Counts counts_;
    GapMends* gap_;
    QLabel* state_;
    QSlider* limit_;
    QLabel* limitText_;
    QPushButton* list_;
    QPushButton* mendAll_;
};

} // namespace yarngap::app
