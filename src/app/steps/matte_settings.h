// The matte among the settings of in-betweens.
#pragma once

#include "app/steps/step_body.h"

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>

namespace yarngap::app {

/// Buttons to draw, load and remove a matte, and what it is now.
class MatteSettings : public QWidget {
    Q_OBJECT
  public:
    explicit MatteSettings(Workspace& workspace, QWidget* parent = nullptr);
    void refresh(const Shot& shot);
    /// Takes pictures, or a video, as the matte of the current shot.
    void usePictures(const QString& file);
    /// Whether the outline is being drawn on the stage.
    void setDrawing(bool on);

  Q_SIGNALS:
    void drawAsked(bool on);

  private:
    void layOut();
    void prepareParts();
    void connectButtons();
    void connectFeather();
    void putFeather(std::int64_t pixels, int kind);
    void change(const QString& what, const Matte& matte, int kind = 0);

    Workspace& workspace_;
    QPushButton* draw_;
    QPushButton* pictures_;
    QPushButton* remove_;
    QLabel* state_;
    ValueField* feather_;
    QWidget* featherRow_;
    QCheckBox* onTop_;
};

} // namespace yarngap::app
