// The frame of the result, in the step Finish.
#pragma once

#include "app/look/choice_box.h"
#include "app/steps/finish_row.h"

#include <QCheckBox>

namespace yarngap::app {

/// Size, pixel aspect, fit, scale and place, and what helps to place by eye.
class FrameRow : public FinishRow {
    Q_OBJECT
  public:
    explicit FrameRow(Workspace& workspace);
    void setPlacing(bool on) { place_->setChecked(on); }
    /// Scale and place at the playhead, as the mouse has it: the key there, or the only one.
    void placeAt(double scale, double x, double y, int kind);
    /// Scale and place at the playhead.
    [[nodiscard]] PlaceKey placeNow() const;
    /// Forgets all keys of place.
    void resetPlace();

  Q_SIGNALS:
    void placeAsked(bool on);
    /// What is drawn over the picture to place by.
    void marksAsked(bool safeAreas, bool thirds, bool centre);

  protected:
    QString show(const Finish& finish, const MediaFacts& facts) override;

  private:
    void layOut();
    void chooseSize(int index);
    void typeSize(const QString& typed);
    [[nodiscard]] Rational here() const;
    void changePlace(const std::function<void(PlaceKey&)>& change, const QString& what, int kind);

    ChoiceBox* sizes_;
    ValueField* size_;
    ValueField* aspect_;
    ChoiceBox* fit_;
    NumberField* scale_;
    NumberField* x_;
    NumberField* y_;
    QPushButton* place_;
    QPushButton* key_;
    QPushButton* reset_;
    QCheckBox* eased_;
    ChoiceBox* around_;
    QCheckBox* safe_;
    QCheckBox* thirds_;
    QCheckBox* centre_;
    QLabel* words_;
    FrameSize result_{1, 1};
};

} // namespace yarngap::app
