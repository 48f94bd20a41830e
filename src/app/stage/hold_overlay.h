// A point to hold still, chosen on the stage, and the path on which it was followed.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/finish/hold.h"
#endif

#include <QRectF>
#include <QString>
#include <QWidget>

#include <functional>
#include <optional>

namespace yarngap::app {

/// Lies over the stage while it shows source pictures. A click chooses a point, dragging a box chooses the
/// thing in it; the point of the path at the frame shown can be dragged. By keys: Ctrl with the arrows
/// moves a cross (with Shift by ten pixels), Enter chooses, or puts the point there. Escape leaves.
class HoldOverlay : public QWidget {
    Q_OBJECT
  public:
    HoldOverlay(std::function<QRectF()> placeOfPicture, int width, int height, bool isSecond, QWidget* stage);
    /// `frame`: the source frame shown; absent where the frame lies between two.
    void show(const FollowedPath& path, double reach, std::optional<std::int64_t> frame);
    [[nodiscard]] QString hint() const;
    /// Where a place of the picture lies on the stage.
    [[nodiscard]] QPointF toStage(const PicturePoint& p) const;

  Q_SIGNALS:
    void chosen(const yarngap::PicturePoint& at, double reach);
    void put(const yarngap::PicturePoint& at);
    void left();
    void hintChanged();

  protected:
    bool eventFilter(QObject* watched, QEvent* happened) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    [[nodiscard]] PicturePoint toPicture(const QPointF& p) const;
    [[nodiscard]] const FollowedPoint* here() const;
    [[nodiscard]] bool isInside(const PicturePoint& p) const;
    void drawPath(QPainter& p) const;
    void finish(const PicturePoint& at, double reach);

    std::function<QRectF()> placeOfPicture_;
    int width_, height_;
    bool isSecond_;
    FollowedPath path_;
    double reach_ = 24;
    std::optional<std::int64_t> frame_;
    std::optional<PicturePoint> cross_;   ///< moved by keys
    std::optional<PicturePoint> pressed_; ///< where the mouse went down, for a box
    std::optional<PicturePoint> pending_; ///< chosen, and being followed
    std::optional<PicturePoint> dragged_; ///< the point of the path while the mouse has it
    PicturePoint pointer_;
};

} // namespace yarngap::app
