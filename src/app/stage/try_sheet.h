// One frame with four settings, to choose from.
#pragma once

#include "app/document/background_tasks.h"
#include "core/settings/in_betweens.h"
#include "core/synthesis/output_frames.h"

#include <QAbstractButton>
#include <QImage>
#include <QWidget>

#include <array>
#include <stop_token>

namespace yarngap::app {

/// In-between settings, what they are called beside each other, and the frames they make.
struct Try {
    QString name;
    InBetweens settings;
    OutputFramesPtr frames = nullptr;
};
/// The settings as they are and three that differ in one thing each.
std::array<Try, 4> triesOf(const InBetweens& now);

/// Which part of a picture is shown: 1 fits it, above that it is enlarged about `centre` (0 to 1 across and
/// down).
struct SharedView {
    double zoom = 1;
    QPointF centre{0.5, 0.5};
};

/// A picture with its name below. A click or Enter chooses it; dragging an enlarged one moves it.
class TryPane : public QAbstractButton {
    Q_OBJECT
  public:
    TryPane(const QString& name, SharedView& view, QWidget* parent);

    /// `small` is the same in grey and a few pixels, for finding where pictures differ.
    void setPicture(const QImage& picture, const QImage& small, const QString& remark);
    [[nodiscard]] bool hasPicture() const { return !picture_.isNull(); }
    [[nodiscard]] const QImage& picture() const { return picture_; }
    [[nodiscard]] const QImage& small() const { return small_; }
    /// Moves the shared view so that pictures fill their panes where they are large enough.
    void keepInside();

  Q_SIGNALS:
    void viewChanged();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    [[nodiscard]] QRectF area() const;
    [[nodiscard]] QRectF place() const;
    SharedView& view_;
    QImage picture_;
    QImage small_;
    QString remark_;
    QPointF dragFrom_;
    bool dragged_ = false;
};

/// Four panes in the place of the stage. Zoom and place are the same in all.
class TrySheet : public QWidget {
    Q_OBJECT
  public:
    /// Makes output frame `output` of all four on `tasks`, which must outlive this.
    TrySheet(std::array<Try, 4> tries, std::int64_t output, BackgroundTasks& tasks, QWidget* parent);
    ~TrySheet() override;
    TrySheet(const TrySheet&) = delete;
    TrySheet& operator=(const TrySheet&) = delete;
    TrySheet(TrySheet&&) = delete;
    TrySheet& operator=(TrySheet&&) = delete;

    [[nodiscard]] TryPane* pane(std::size_t i) const { return panes_.at(i); }

  Q_SIGNALS:
    void chosen(int index, const yarngap::InBetweens& settings);
    void leftAsItWas(); ///< Escape
    void pictureMade(int index);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void makePicture(std::size_t i, std::int64_t output, BackgroundTasks& tasks);
    /// Once all are made, goes near the place where they differ most.
    void showDifference();

    SharedView view_;
    std::array<Try, 4> tries_;
    std::array<TryPane*, 4> panes_{};
    std::stop_source stop_;
};

} // namespace yarngap::app
