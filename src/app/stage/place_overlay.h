// Scale and place of the picture in its frame, by mouse and keys on the stage.
#pragma once

#include <QPointF>
#include <QRectF>
#include <QString>
#include <QWidget>

#include <array>
#include <functional>

namespace yarngap::app {

/// Lies over the stage. Dragging moves the picture, a corner or the wheel scales it about the middle of the
/// frame; Ctrl with the arrows moves it by a pixel (with Shift by ten), plus and minus
/// scale it. Escape leaves.
class PlaceOverlay : public QWidget {
    Q_OBJECT
  public:
    struct Place {
        double scale = 1;
        double x = 0, y = 0; ///< shares of the frame
    };

    /// `placeOfFrame`: where in `stage` the frame of the result lies.
    PlaceOverlay(std::function<QRectF()> placeOfFrame, QWidget* stage);
    /// The place now, the frame's pixels, and where the corners of the picture lie, as shares of the frame.
    void show(const Place& place, QSize frame, const std::array<QPointF, 4>& corners);
    [[nodiscard]] QString hint() const;

  Q_SIGNALS:
    /// `isDragged`: more of the same may follow.
    void placed(const yarngap::app::PlaceOverlay::Place& place, bool isDragged);
    void left();

  protected:
    bool eventFilter(QObject* watched, QEvent* happened) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    [[nodiscard]] QPointF toStage(const QPointF& share) const;
    [[nodiscard]] int cornerAt(const QPointF& at) const;
    void scaleTo(double scale, bool isDragged);

    std::function<QRectF()> placeOfFrame_;
    Place place_;
    QSize frame_{1, 1};
    std::array<QPointF, 4> corners_;
    bool isHeld_ = false;
    int corner_ = -1;
    QPointF grabbed_;
    Place from_;
};

} // namespace yarngap::app
