// The step Timing: speed, length, rate, and the everyday shapes.
#pragma once

#include "app/document/background_tasks.h"
#include "app/look/choice_box.h"
#include "app/steps/step_body.h"

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace yarngap::app {

class TimingStep : public StepBody {
    Q_OBJECT
  public:
    explicit TimingStep(Workspace& workspace);
    QString refresh() override;

  private:
    void prepareFields();
    void layOut();
    /// A row of three shapes and a row of two.
    void layOutShapes(QVBoxLayout& layout);
    void connectFields();
    /// Applies a typed length or speed, and steps of it.
    void connectField(ValueField* field, const QString& what, int kind,
                      const std::function<Timing(const Timing&, const QString&)>& typed,
                      const std::function<Timing(const Timing&, int)>& stepped);
    void setRate(const QString& text);
    QPushButton* shapeButton(const QString& words, const char* objectName, const QString& tip,
                             void (TimingStep::*act)());
    void addRamp();
    void freezeHere();
    void reverse();
    void turnBack();
    void showMore();
    void shape(const QString& what, const std::function<Timing(Timing)>& change);
    /// Passes into or out of the speed of the shot at `other` in the list, on the other side of the cut.
    void matchSpeed(int other);
    void savePreset(const QString& name);
    void applyPreset(const QString& name);
    void writeMap();
    void readMap();
    [[nodiscard]] Timing withWholeSpeed(const Timing& now, const Rational& speed) const;
    static QString speedWords(const Timing& timing);
    ValueField* speed_;
    ValueField* factor_;
    ValueField* frames_;
    ValueField* seconds_;
    ValueField* timecode_;
    ChoiceBox* rate_;
    QLabel* counts_;
    QLabel* tail_;
    QLabel* problem_;
    QPushButton* everyFrame_;
    QPushButton* sameLength_;
    QLineEdit* presetName_; ///< shown while a name is asked for
    BackgroundTasks files_;
};

} // namespace yarngap::app
