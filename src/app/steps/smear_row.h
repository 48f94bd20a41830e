// Smears across cuts and stretches, in the step Finish.
#pragma once

#include "app/document/finish_work.h"
#include "app/look/choice_box.h"
#include "app/steps/finish_row.h"

namespace yarngap::app {

class SmearRow : public FinishRow {
    Q_OBJECT
  public:
    SmearRow(Workspace& workspace, FinishWork& work);

  protected:
    QString show(const Finish& finish, const MediaFacts& facts) override;

  private:
    void layOut();
    void add(const Smear& smear);
    void smearStretch();
    void smearCut();
    void change(const std::function<void(Smear&)>& change, const QString& what, int kind);
    [[nodiscard]] std::size_t chosen() const;

    FinishWork& work_;
    QPushButton* stretch_;
    QPushButton* start_;
    QPushButton* end_;
    QPushButton* cut_;
    ChoiceBox* which_;
    QPushButton* remove_;
    NumberField* frames_;
    NumberField* length_;
    NumberField* turn_;
    NumberField* bulge_;
    ChoiceBox* peak_;
    QWidget* settings_;
    QLabel* words_;
    Rational firstFrame_ = 0, endFrame_ = 0; ///< of the trim
};

} // namespace yarngap::app
