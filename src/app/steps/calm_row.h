// Calming the camera, in the step Finish.
#pragma once

#include "app/document/finish_work.h"
#include "app/look/choice_box.h"
#include "app/steps/finish_row.h"

namespace yarngap::app {

/// The path of the camera as it was measured, and as it becomes: across above, down below.
class PathPlot : public QWidget {
    Q_OBJECT
  public:
    explicit PathPlot(QWidget* parent = nullptr);
    void setPaths(std::vector<PicturePoint> measured, std::vector<PicturePoint> calmed);
    [[nodiscard]] QSize sizeHint() const override { return {200, 76}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    std::vector<PicturePoint> measured_, calmed_;
};

class CalmRow : public FinishRow {
    Q_OBJECT
  public:
    CalmRow(Workspace& workspace, FinishWork& work);

  protected:
    QString show(const Finish& finish, const MediaFacts& facts) override;

  private:
    void measure();
    void showPath(const Calm& calm, const MediaFacts& facts);

    FinishWork& work_;
    ChoiceBox* by_;
    NumberField* seconds_;
    QPushButton* measure_;
    PathPlot* plot_;
    QLabel* words_;
    Calm plotted_;
};

} // namespace yarngap::app
