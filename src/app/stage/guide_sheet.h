// Drawing a guide: both source frames of a gap side by side, with the points that pair them.
#pragma once

#include "app/stage/picture_overlay.h"
#include "core/settings/guide.h"

#include <QImage>
#include <QLabel>
#include <QPointer>
#include <QWidget>

#include <array>
#include <functional>
#include <optional>
#include <vector>

namespace yarngap::app {

/// Which end of a pair.
enum class GuideEnd { from, to };

/// A point of a guide: a pair and one of its ends.
struct GuidePlace {
    std::size_t pair = 0;
    GuideEnd end = GuideEnd::from;
    friend bool operator==(const GuidePlace&, const GuidePlace&) = default;
};

/// One picture with points on it. The wheel enlarges it about the pointer, dragging beside a point moves it;
/// a loupe shows what is under the pointer.
class GuidePane : public QWidget {
    Q_OBJECT
  public:
    GuidePane(GuideEnd end, int width, int height, double aspect, QWidget* parent);

    void setPicture(const QImage& picture);
    /// Points in pixels of the shot; `pending`: one that still wants its partner.
    void setPoints(const std::vector<PicturePoint>& points, std::optional<std::size_t> selected,
                   const std::optional<PicturePoint>& pending, const std::vector<std::size_t>& leftOut);
    void setCaption(const QString& caption) { caption_ = caption; }
    [[nodiscard]] QPointF toScreen(const PicturePoint& p) const;
    [[nodiscard]] bool hasPicture() const { return !picture_.isNull(); }

  Q_SIGNALS:
    void placed(const yarngap::PicturePoint& p);
    void grabbed(std::size_t pair);
    void dragged(std::size_t pair, const yarngap::PicturePoint& p);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void leaveEvent(QEvent* event) override;

  private:
    [[nodiscard]] QRectF place() const;
    [[nodiscard]] PicturePoint toPicture(const QPointF& at) const;
    [[nodiscard]] std::optional<std::size_t> pointAt(const QPointF& at) const;
    void drawLoupe(QPainter& p) const;

    GuideEnd end_;
    int width_, height_;
    double aspect_;
    QImage picture_;
    QString caption_;
    std::vector<PicturePoint> points_;
    std::vector<std::size_t> leftOut_;
    std::optional<std::size_t> selected_;
    std::optional<PicturePoint> pending_;
    std::optional<std::size_t> held_;
    std::optional<QPointF> pointer_;
    QPointF pressed_;
    bool panning_ = false;
    bool moved_ = false;
    double zoom_ = 1;
    QPointF centre_{0.5, 0.5}; ///< of what is shown, as a share of the picture
};

/// The in-between of the gap, with its vectors.
class GuidedPicture : public QWidget {
    Q_OBJECT
  public:
    GuidedPicture(double aspect, QWidget* parent);
    void setPicture(const QImage& picture, const PreviewInsightPtr& insight, bool isStale);
    void setCaption(const QString& caption) { caption_ = caption; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    double aspect_;
    QImage picture_;
    PreviewInsightPtr insight_;
    QString caption_;
    bool isStale_ = false;
};

/// Click a point on the left picture, then where it has gone on the right one. By keys: Insert adds a pair in
/// the middle, Page Up and Page Down choose a point, Ctrl with the arrows moves it (with Shift by ten
/// pixels), Delete takes its pair out, Enter and Esc leave.
class GuideSheet : public QWidget {
    Q_OBJECT
  public:
    GuideSheet(int width, int height, double aspect, QWidget* parent);

    void setGuide(const Guide& guide);
    [[nodiscard]] const Guide& guide() const { return guide_; }
    /// Pairs that contradict others and are left out.
    void setLeftOut(const std::vector<std::size_t>& pairs);
    void setPictures(const QImage& from, const QImage& to);
    void setMade(const QImage& picture, const PreviewInsightPtr& insight, bool isStale);
    [[nodiscard]] QString hint() const { return hint_->text(); }
    [[nodiscard]] GuidePane& pane(GuideEnd end) { return end == GuideEnd::from ? *from_ : *to_; }

  Q_SIGNALS:
    void edited(const yarngap::Guide& guide, const QString& what);
    void left();

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void connectPane(GuidePane* pane, GuideEnd end);
    void place(GuideEnd end, const PicturePoint& p);
    void move(const GuidePlace& at, const PicturePoint& to);
    void step(int direction);
    void remove();
    void refresh();
    [[nodiscard]] PicturePoint& point(Guide& guide, const GuidePlace& at) const;

    int width_, height_;
    Guide guide_;
    std::vector<std::size_t> leftOut_;
    std::optional<PicturePoint> pending_; ///< of the left picture
    std::optional<GuidePlace> selected_;
    QLabel* hint_;
    GuidePane* from_;
    GuidedPicture* made_;
    GuidePane* to_;
};

} // namespace yarngap::app
