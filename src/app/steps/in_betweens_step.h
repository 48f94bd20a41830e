// The step In-betweens: the method, and how flow frames are made.
#pragma once

#include "app/steps/flow_settings.h"
#include "app/steps/step_body.h"

#include <QButtonGroup>
#include <QLabel>
#include <QPushButton>

namespace yarngap::app {

class InBetweensStep : public StepBody {
    Q_OBJECT
  public:
    explicit InBetweensStep(Workspace& workspace);
    QString refresh() override;
    void setMethod(Method method);
    [[nodiscard]] MatteSettings& matte() { return flow_->matte(); }

  Q_SIGNALS:
    /// The frame at the playhead is to be shown with other settings beside each other.
    void tryAsked();

  private:
    QLayout* buildMethods();
    void refreshMethods(const Shot& shot);
    /// The stretches made otherwise, in words.
    QStringList refreshStretches(const Shot& shot);

    QButtonGroup* methods_;
    QLabel* explanation_;
    QLabel* stretches_;
    QPushButton* everywhere_;
    QLabel* problem_;
    FlowSettings* flow_;
};

} // namespace yarngap::app
