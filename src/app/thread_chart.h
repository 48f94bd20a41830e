// The thread chart: source frames above, output frames below, threads between them.
#pragma once

#include "app/player.h"
#include "core/time/frame_plan.h"

#include <QPixmap>
#include <QToolButton>
#include <QWidget>

#include <array>
#include <memory>
#include <optional>
#include <vector>

namespace yarngap::app {

/// Timeline of the current shot. Click or drag to move the playhead, wheel to zoom about the pointer, wheel
/// with Shift or sideways (or drag with the middle button) to move along.
class ThreadChart : public QWidget {
    Q_OBJECT
  public:
    explicit ThreadChart(Player& player, QWidget* parent = nullptr);

    /// What to draw; null for an empty chart.
    void setPlan(std::shared_ptr<const FramePlan> plan, const Timing& timing);
    /// For each output frame whether it is ready to be shown.
    void setReady(const std::vector<std::uint8_t>* ready) { ready_ = ready; }

    /// Shows all output frames.
    void fit();
    void zoom(double factor, double atX);
    /// Horizontal place of an output frame, in widget pixels.
    [[nodiscard]] double xOf(double output) const;
    [[nodiscard]] double pixelsPerFrame() const { return scale_; }
    [[nodiscard]] QSize sizeHint() const override { return {1280, 232}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {600, 228}; }
    /// Height of a speed (source seconds per output second) in the speed lane, and back.
    [[nodiscard]] double yOfSpeed(double speed) const;
    [[nodiscard]] double speedAtY(double y) const;

  Q_SIGNALS:
    /// A stretch of the speed curve is dragged: segment after key `segment` of the timing as it was when drag
    /// number `drag` began. `speed` is in source seconds per output second.
    void stretchDragged(const yarngap::Timing& before, int segment, double speed, int drag);
    /// The drag was taken back with Escape.
    void dragTakenBack(const yarngap::Timing& before, int drag);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override { mousePressEvent(event); }
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    bool event(QEvent* event) override;

  private:
    struct Visible {
        std::int64_t first, last; // output frames
    };
    [[nodiscard]] Visible visible() const;
    [[nodiscard]] double outputAt(double x) const;
    [[nodiscard]] double sourceX(double position) const;
    [[nodiscard]] double laneWidth() const;
    void scrollTo(double start);
    void keepPlayheadInView(qint64 frame);
    void scrub(double x);
    [[nodiscard]] QRectF lanes() const;
    void fitSpeeds();
    void fitRail(const Visible& v);
    void redraw(); ///< after a change of anything but playhead and stitches
    void drawLasting();
    void drawHeader(QPainter& p) const;
    void drawLegend(QPainter& p, double right) const;
    void drawSpeedLane(QPainter& p, const Visible& v) const;
    [[nodiscard]] std::optional<int> stretchUnder(const QPointF& place) const;
    void drawSourceRail(QPainter& p, const Visible& v) const;
    void drawThreads(QPainter& p, const Visible& v) const;
    void drawRibbons(QPainter& p, const Visible& v) const;
    void drawOutputRail(QPainter& p, const Visible& v) const;
    void drawStitchLine(QPainter& p, const Visible& v) const;
    void drawPlayhead(QPainter& p) const;

    static constexpr std::size_t kinds = 5;
    Player& player_;
    std::shared_ptr<const FramePlan> plan_;
    Timing timing_;
    const std::vector<std::uint8_t>* ready_ = nullptr;
    std::vector<std::array<std::int32_t, kinds>> before_; // frames of each kind before output frame n
    double start_ = 0;                                    // output frame at the left end
    double scale_ = 8;                                    // pixels per output frame
    bool fitted_ = true;
    QPixmap lasting_; // everything but playhead and stitches; null when it must be drawn again
    double panX_ = 0;
    std::optional<TimeMap> map_; // of the plan
    double slowest_ = 0;         // speeds at the bottom and the top of the lane
    double fastest_ = 1;
    double railFrom_ = 0; // source positions at the ends of the visible output frames, where the speed varies
    double railTo_ = 1;
    struct StretchDrag {
        Timing before;
        int segment = 0;
        int number = 0;
    };
    int drags_ = 0;
    std::optional<StretchDrag> drag_;
    std::optional<int> hovered_;
    QToolButton* fitButton_;
    QToolButton* inButton_;
    QToolButton* outButton_;
};

} // namespace yarngap::app
