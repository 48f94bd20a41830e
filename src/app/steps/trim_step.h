// The step Trim: first and last source frame.
#pragma once

#include "app/steps/step_body.h"

#include <QLabel>

namespace yarngap::app {

class TrimStep : public StepBody {
    Q_OBJECT
  public:
    explicit TrimStep(Workspace& workspace);
    QString refresh() override;
    /// Puts the first or last source frame at the playhead.
    void setInAtPlayhead();
    void setOutAtPlayhead();

  private:
    void setFrames(ValueField& field, const QString& what, int kind, std::int64_t from, std::int64_t to);
    ValueField* in_;
    ValueField* out_;
    QLabel* count_;
    QLabel* problem_;
};

} // namespace yarngap::app
