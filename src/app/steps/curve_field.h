// A tone curve that is dragged by its points, over a histogram.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/finish/tone.h"
#endif

#include <QWidget>

#include <optional>
#include <vector>

namespace yarngap::app {

/// Click for a point, drag it, double click or Delete to take it away. By keys: Page Up and Page Down choose
/// a point, the arrows move it (with Shift by more), Insert adds one after it.
class CurveField : public QWidget {
    Q_OBJECT
  public:
    explicit CurveField(QWidget* parent = nullptr);
    void setCurve(const std::vector<CurvePoint>& points);
    /// How the values of the frame on screen are spread; none while that is not known.
    void setHistogram(const std::optional<Histogram>& histogram);
    [[nodiscard]] QSize sizeHint() const override { return {220, 150}; }
    /// Where a point of the curve lies in the widget.
    [[nodiscard]] QPointF placeOf(const CurvePoint& point) const;

  Q_SIGNALS:
    /// `isDragged`: more may follow.
    void changed(const std::vector<yarngap::CurvePoint>& points, bool isDragged);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    [[nodiscard]] QRectF box() const;
    [[nodiscard]] CurvePoint pointAt(const QPointF& place) const;
    [[nodiscard]] std::optional<std::size_t> handleAt(const QPointF& place) const;
    /// The points there are: those of a straight curve are its ends.
    [[nodiscard]] std::vector<CurvePoint> points() const;
    void move(std::size_t point, CurvePoint to, bool isDragged);
    void add(const CurvePoint& point);
    void remove();
    void tellChosen();

    std::vector<CurvePoint> points_;
    std::optional<Histogram> histogram_;
    std::optional<std::size_t> chosen_;
    bool isDragging_ = false;
};

} // namespace yarngap::app
