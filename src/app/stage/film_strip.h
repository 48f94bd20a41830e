// A page of consecutive output frames.
#pragma once

#include "app/playing/player.h"
#include "app/playing/preview.h"
#include "app/stage/page_grid.h"

#include <QWidget>

#include <memory>
#include <optional>
#include <utility>

namespace yarngap::app {

/// Consecutive output frames around the playhead, in rows: originals in a full frame, made ones in a dashed
/// one, each with the shape of its kind. Repeats and doubtful frames say so. A click moves the playhead
/// there; a double click, Enter or Escape goes back to the large picture.
class FilmStrip : public QWidget {
    Q_OBJECT
  public:
    FilmStrip(Player& player, Preview& preview, QWidget* parent = nullptr);

    void setShot(std::shared_ptr<const FramePlan> plan, double aspect);
    /// First and last output frame on the page, if there are any.
    [[nodiscard]] std::optional<std::pair<qint64, qint64>> page() const;
    /// Where output frame `output` lies, empty when it is on another page.
    [[nodiscard]] QRectF placeOf(qint64 output) const;
    /// The words under a frame: "36 · original", "37 · doubt 0.12", "38 · same as 37".
    [[nodiscard]] QString captionOf(qint64 output) const;

  Q_SIGNALS:
    void left();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    [[nodiscard]] PageGrid grid() const;
    [[nodiscard]] qint64 total() const;
    [[nodiscard]] std::optional<qint64> outputAt(QPointF at) const;
    void turnTo(qint64 first);
    void centre();
    void follow(); ///< shows the page that the playhead is on

    Player& player_;
    Preview& preview_;
    std::shared_ptr<const FramePlan> plan_;
    double aspect_ = 16.0 / 9;
    qint64 first_ = 0;
};

} // namespace yarngap::app
