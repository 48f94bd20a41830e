// Tone, in the step Finish.
#pragma once

#include "app/steps/curve_field.h"
#include "app/steps/finish_row.h"

#include <optional>

namespace yarngap::app {

class ToneRow : public FinishRow {
    Q_OBJECT
  public:
    explicit ToneRow(Workspace& workspace);
    /// Of the frame on screen, as it is finished.
    void setHistogram(const std::optional<Histogram>& histogram);

  protected:
    QString show(const Finish& finish, const MediaFacts& facts) override;

  private:
    [[nodiscard]] Rational here() const;
    /// The tone at the playhead, as a key there.
    [[nodiscard]] ToneKey toneNow() const;
    void change(const std::function<void(ToneKey&)>& change, const QString& what, int kind);

    CurveField* curve_;
    NumberField* black_;
    NumberField* white_;
    NumberField* gamma_;
    NumberField* saturation_;
    QPushButton* key_;
    QPushButton* reset_;
    QLabel* clipped_;
    QLabel* words_;
};

} // namespace yarngap::app
