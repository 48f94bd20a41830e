// The step Finish: what is done to each frame after it is made.
#pragma once

#include "app/document/finish_work.h"
#include "app/steps/calm_row.h"
#include "app/steps/edges_row.h"
#include "app/steps/frame_row.h"
#include "app/steps/hold_row.h"
#include "app/steps/smear_row.h"
#include "app/steps/step_body.h"
#include "app/steps/texture_row.h"
#include "app/steps/tone_row.h"

#include <QLabel>
#include <QProgressBar>
#include <QPushButton>

#include <vector>

namespace yarngap::app {

class FinishStep : public StepBody {
    Q_OBJECT
  public:
    FinishStep(Workspace& workspace, FinishWork& work);
    QString refresh() override;
    [[nodiscard]] FrameRow& frame() { return *frame_; }
    [[nodiscard]] HoldRow& hold() { return *hold_; }
    [[nodiscard]] ToneRow& tone() { return *tone_; }

  private:
    void showWork();

    FinishWork& work_;
    FrameRow* frame_;
    EdgesRow* edges_;
    HoldRow* hold_;
    CalmRow* calm_;
    ToneRow* tone_;
    TextureRow* texture_;
    SmearRow* smear_;
    std::vector<FinishRow*> rows_;
    QWidget* workBox_;
    QLabel* workWords_;
    QProgressBar* progress_;
    QPushButton* cancel_;
    QLabel* trouble_;
    QLabel* hint_;
};

} // namespace yarngap::app
