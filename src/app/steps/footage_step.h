// The step Footage: what the file says, what its pictures show, and how it is taken.
#pragma once

#include "app/look/choice_box.h"
#include "app/steps/step_body.h"

#include "core/inspection/proposals.h"
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>

class QVBoxLayout;

namespace yarngap::app {

class FootageStep : public StepBody {
    Q_OBJECT
  public:
    explicit FootageStep(Workspace& workspace);
    QString refresh() override;

  Q_SIGNALS:
    void findAgainAsked(); ///< the media of the current shot is to be looked for

  private:
    void buildControls(QVBoxLayout& layout);
    void change(const QString& what, const std::function<void(Interpretation&)>& edit);
    void showFacts(const MediaState& state);
    void showSuitability(const MediaState& state);
    void showProposals(const MediaState& state);
    void showControls(const MediaState& state);
    [[nodiscard]] QString outcome(const MediaState& state) const;

    QLabel* facts_;
    QLabel* remark_;
    QPushButton* findAgain_;
    QProgressBar* progress_;
    QLabel* suitability_;
    QWidget* proposals_;
    std::vector<Proposal> shownProposals_;
    QWidget* controls_;
    ValueField* rate_;
    ValueField* aspect_;
    ChoiceBox* fields_;
    ChoiceBox* order_;
    ChoiceBox* turn_;
    ChoiceBox* range_;
    ChoiceBox* matrix_;
    QPushButton* asFile_;
};

} // namespace yarngap::app
