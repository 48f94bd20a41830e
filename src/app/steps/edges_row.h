// Hiding bare edges, in the step Finish.
#pragma once

#include "app/document/finish_work.h"
#include "app/look/choice_box.h"
#include "app/steps/finish_row.h"

namespace yarngap::app {

/// One button that finds the least scale, the scale, and where it is in force.
class EdgesRow : public FinishRow {
    Q_OBJECT
  public:
    EdgesRow(Workspace& workspace, FinishWork& work);

  protected:
    QString show(const Finish& finish, const MediaFacts& facts) override;

  private:
    void find();
    void take(const HiddenEdges& edges, std::optional<std::pair<std::int64_t, std::int64_t>> gaps);

    FinishWork& work_;
    QPushButton* find_;
    QPushButton* remove_;
    ChoiceBox* where_;
    NumberField* scale_;
    NumberField* fade_;
    QLabel* words_;
    QString found_;
};

} // namespace yarngap::app
