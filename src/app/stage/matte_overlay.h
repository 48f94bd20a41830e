// The outline of a matte, drawn and changed on the stage.
#pragma once

#include "core/synthesis/matte.h"

#include <QRectF>
#include <QWidget>

#include <functional>
#include <optional>

namespace yarngap::app {

/// Lies over the stage while a matte is drawn.
///
/// Without an outline, clicks place its points and Enter closes it. After that points, or the whole, are
/// dragged; each change is a key at the source frame shown. Everything goes by keys too: Page Up and Page
/// Down choose a point, Ctrl with the arrows moves it (with Shift by ten pixels), Insert adds one, Delete
/// takes it away. Insert in an empty picture places a rectangle to begin with.
class MatteOverlay : public QWidget {
    Q_OBJECT
  public:
    /// `placeOfPicture`: where in `stage` the picture of `width` x `height` pixels lies.
    MatteOverlay(std::function<QRectF()> placeOfPicture, int width, int height, QWidget* stage);

    /// The matte as it is, and the source frame its outline is shown of.
    void show(const Matte& matte, std::int64_t frame);
    [[nodiscard]] std::vector<MattePoint> outline() const;
    /// What can be done now, in a sentence.
    [[nodiscard]] QString hint() const;

  Q_SIGNALS:
    void edited(const yarngap::Matte& matte, const QString& what);
    void left();
    void hintChanged();

  protected:
    bool eventFilter(QObject* watched, QEvent* happened) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    [[nodiscard]] bool isPlacing() const { return matte_.keys.empty(); }
    [[nodiscard]] bool isKey() const;
    [[nodiscard]] QPointF toStage(const MattePoint& p) const;
    [[nodiscard]] MattePoint toPicture(const QPointF& p) const;
    /// The point that a click means while an outline is begun: at the picture's edge a little outside.
    [[nodiscard]] MattePoint placeFor(const QPointF& click) const;
    [[nodiscard]] std::optional<std::size_t> pointAt(const QPointF& place) const;
    [[nodiscard]] std::optional<std::size_t> lineAt(const QPointF& place) const;
    [[nodiscard]] bool inside(const QPointF& place) const;
    void refresh();
    void close();
    void change(const std::vector<MattePoint>& points, const QString& what);
    void addPoint(std::size_t after);
    void removePoint();
    bool moveByKey(int key, bool far);

    std::function<QRectF()> placeOfPicture_;
    int width_;
    int height_;
    Matte matte_;
    std::int64_t frame_ = 0;
    std::vector<MattePoint> placed_;              ///< of an outline that is not closed yet
    std::optional<std::vector<MattePoint>> held_; ///< the outline while the mouse moves it
    std::optional<std::size_t> selected_;
    MattePoint grabbed_;
};

} // namespace yarngap::app
