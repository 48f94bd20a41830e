// Softening, sharpening and grain, in the step Finish.
#pragma once

#include "app/document/finish_work.h"
#include "app/look/choice_box.h"
#include "app/steps/finish_row.h"

namespace yarngap::app {

class TextureRow : public FinishRow {
    Q_OBJECT
  public:
    TextureRow(Workspace& workspace, FinishWork& work);

  protected:
    QString show(const Finish& finish, const MediaFacts& facts) override;

  private:
    void chooseGrain(int at);

    FinishWork& work_;
    NumberField* soften_;
    NumberField* softenRadius_;
    NumberField* sharpen_;
    NumberField* sharpenRadius_;
    ChoiceBox* grain_;
    NumberField* grainStrength_;
    NumberField* grainSize_;
    QLabel* words_;
};

} // namespace yarngap::app
