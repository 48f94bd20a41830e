// An outline, drawn and changed on the stage.
#pragma once

#include "core/image/picture_point.h"

#include <QRectF>
#include <QString>
#include <QWidget>

#include <functional>
#include <optional>
#include <vector>

namespace yarngap::app {

/// What an outline is called and drawn around, for hints and screen readers.
struct OutlineWords {
    const char* objectName;
    QString name;  ///< "Outline of the matte"
    QString place; ///< "Click around the subject. Esc leaves."
};

/// Lies over the stage while an outline is drawn.
///
/// Without an outline, clicks place its points and Enter closes it. After that points, or the whole, are
/// dragged; each change is a key at the frame shown. Everything goes by keys too: Page Up and Page
/// Down choose a point, Ctrl with the arrows moves it (with Shift by ten pixels), Insert adds one, Delete
/// takes it away. Insert in an empty picture places a rectangle to begin with.
class OutlineOverlay : public QWidget {
    Q_OBJECT
  public:
    enum class Change { drawn, pointMoved, moved };

    /// `placeOfPicture`: where in `stage` the picture of `width` x `height` pixels lies.
    OutlineOverlay(std::function<QRectF()> placeOfPicture, int width, int height, const OutlineWords& words,
                   QWidget* stage);

    /// Nothing is drawn yet: clicks place points.
    void startPlacing();
    /// The outline at the frame shown. `isKey`: it was drawn there; else it is dashed. `where` says so in
    /// words. Empty: it is not known yet.
    void show(const std::vector<PicturePoint>& outline, bool isKey, const QString& where);
    [[nodiscard]] std::vector<PicturePoint> outline() const;
    [[nodiscard]] bool isPlacing() const { return isPlacing_; }
    /// What can be done now, in a sentence.
    [[nodiscard]] QString hint() const;

  Q_SIGNALS:
    void outlined(const std::vector<yarngap::PicturePoint>& outline,
                  yarngap::app::OutlineOverlay::Change change);
    void pointAdded(std::size_t after);
    void pointRemoved(std::size_t point);
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
    [[nodiscard]] QPointF toStage(const PicturePoint& p) const;
    [[nodiscard]] PicturePoint toPicture(const QPointF& p) const;
    /// The point that a click means while an outline is begun: at the picture's edge a little outside.
    [[nodiscard]] PicturePoint placeFor(const QPointF& click) const;
    [[nodiscard]] std::optional<std::size_t> pointAt(const QPointF& place) const;
    [[nodiscard]] std::optional<std::size_t> lineAt(const QPointF& place) const;
    [[nodiscard]] bool inside(const QPointF& place) const;
    void refresh();
    void close();
    void change(const std::vector<PicturePoint>& points, Change what);
    void addPoint(std::size_t after);
    void removePoint();
    bool moveByKey(int key, bool far);

    std::function<QRectF()> placeOfPicture_;
    int width_;
    int height_;
    OutlineWords words_;
    bool isPlacing_ = true;
    bool isKey_ = false;
    QString where_;
    std::vector<PicturePoint> shown_;
    std::vector<PicturePoint> placed_;              ///< of an outline that is not closed yet
    std::optional<std::vector<PicturePoint>> held_; ///< the outline while the mouse moves it
    std::optional<std::size_t> selected_;
    PicturePoint grabbed_;
};

} // namespace yarngap::app
