// The column at the left: the shots of the project over the steps of the job.
#pragma once

#include "app/steps/step_card.h"
#include "app/window/shot_list.h"

#include <QIcon>
#include <QSplitter>
#include <QToolButton>
#include <QWidget>

#include <vector>

namespace yarngap::app {

/// Stands for the column on the button that hides it.
QIcon columnIcon();

/// Shots above, steps below, and a seam between them to drag. The header of every step is always in view; the
/// open step takes what is left, and scrolls inside it.
class LeftColumn : public QWidget {
    Q_OBJECT
  public:
    /// `shots` and `playOn`, which stands beside their heading, become the column's own.
    LeftColumn(ShotList* shots, QToolButton* playOn, QWidget* parent = nullptr);

    /// Adds a step below those that are there. Opening one closes the others.
    StepCard* addStep(const QString& title, const QString& objectName, QWidget* body);
    /// The seam between shots and steps; it stays where it is put once `wasDragged`.
    [[nodiscard]] QSplitter& seam() { return *parts_; }
    void setDragged(bool wasDragged) { dragged_ = wasDragged; }

  private:
    /// Makes the column as wide as the body of a step needs it, which longer words may want wider.
    void fitStep(const QWidget& body);
    void fitShots();

    ShotList* shots_;
    QSplitter* parts_;
    bool dragged_ = false; ///< the editor has moved the seam
    QVBoxLayout* steps_;
    std::vector<StepCard*> cards_;
};

} // namespace yarngap::app
