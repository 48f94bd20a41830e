// The row of buttons below the picture.
#pragma once

#include "app/stage/picture_overlay.h"

#include <QToolButton>
#include <QWidget>

#include <array>

namespace yarngap::app {

/// A button that stands on the grey of the stage.
QToolButton* stageButton(const QString& text, const QString& objectName, const QString& tip);

/// What is laid over the picture, one at most, and what stands in its place: a filmstrip, versions compared,
/// the whole screen.
class StageTools : public QWidget {
    Q_OBJECT
  public:
    explicit StageTools(QWidget* parent = nullptr);

    [[nodiscard]] Overlay overlay() const { return overlay_; }
    /// Lays `overlay` over the picture, or takes it away where it is already.
    void toggle(Overlay overlay);
    void setComparing(bool on);
    void setFilmStrip(bool on);
    void setFullScreen(bool on) { whole_->setChecked(on); }

  Q_SIGNALS:
    void overlayChanged();
    void compareAsked(bool on);
    void filmStripAsked(bool on);
    void fullScreenAsked(bool on);

  private:
    void enable();

    Overlay overlay_ = Overlay::none;
    bool comparing_ = false;
    bool strips_ = false;
    std::array<QToolButton*, 4> overlays_{};
    QToolButton* strip_;
    QToolButton* compare_;
    QToolButton* whole_;
};

} // namespace yarngap::app
