// The thread chart: source frames above, output frames below, threads between them.
#pragma once

#include "app/access/drawn_parts.h"
#include "app/chart/chart_painting.h"
#include "app/playing/player.h"
#include "app/playing/preview.h"
#include "app/playing/source_thumbnails.h"
#include "core/time/frame_plan.h"
#include "core/time/map_edits.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over <span>
#include "app/chart/lane_edits.h"
#include "core/cleaning/cleanup.h"
#endif

#include <QLineEdit>
#include <QPixmap>
#include <QToolButton>
#include <QWidget>

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

class QMenu;

namespace yarngap::app {

/// Timeline of the current shot: the gestures. Where things lie is told by ChartPlaces, how they look by
/// ChartPainting. Click or drag to move the playhead, wheel to zoom about the pointer, wheel
/// with Shift or sideways (or drag with the middle button) to move along. Drag with Shift to select a
/// stretch.
///
/// In the lane on top, keys and stretches of the speed curve (or of the position curve) are dragged: up and
/// down for speed, sideways for their source moment. A click with Shift takes further keys, which move
/// together; with Ctrl they are scaled about the one farthest from the hand. A double click types the speed;
/// the right button has what else can be done there. The uprights at the ends of the source rail are dragged
/// to trim.
class ThreadChart : public QWidget, public DrawnParts, protected ChartPainting {
    Q_OBJECT
  public:
    explicit ThreadChart(Player& player, QWidget* parent = nullptr);

    /// What to draw; null for an empty chart.
    void setPlan(std::shared_ptr<const FramePlan> plan, const Timing& timing);
    /// Another shot comes: what was dragged or selected is let go.
    void letGo();
    /// Source frames that repeat the one before, and first frames after a cut, as the pictures show; in
    /// order.
    void setFindings(std::vector<std::int64_t> duplicates, std::vector<std::int64_t> cuts);
    /// The doubt of gaps, in order of their first source frames, and from where on it is told. Without any
    /// there is no lane; it stays while they are looked for again, or all else would jump with every edit.
    void setDoubts(std::vector<DoubtBar> doubts, double limit, bool isSearching = false);
    /// Small pictures to show over the source rail where there is room for them.
    void setThumbnails(SourceThumbnails& thumbnails);
    /// Numbers of the source rail while the ruler shows timecode; null: frame numbers always.
    void setSourceTimecode(SourceTimecode timecode) { sourceTimecode_ = std::move(timecode); }
    /// For each output frame whether it is ready to be shown.
    void setReady(const std::vector<Readiness>* ready) { ready_ = ready; }

    /// Shows all output frames.
    void fit();
    void zoom(double factor, double atX);
    [[nodiscard]] QSize sizeHint() const override { return {1280, chart::roomyHeight}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {600, chart::leastHeight}; }
    using ChartPainting::DoubtBar;
    using ChartPainting::Stretch;
    using ChartPlaces::pixelsPerFrame;
    using ChartPlaces::placeOfKey;
    using ChartPlaces::places;
    using ChartPlaces::speedAtY;
    using ChartPlaces::xOf;
    using ChartPlaces::xOfSource;
    using ChartPlaces::yOfSpeed;
    [[nodiscard]] std::optional<Stretch> selection() const { return selection_; }
    /// Keys of the map that are chosen, the one taken last at the end.
    [[nodiscard]] const std::vector<int>& chosenKeys() const { return chosen_; }
    /// What edits of the speed leave alone, as the buttons say.
    [[nodiscard]] LaneKeeping keeping() const;

    // For screen readers: the playhead; the stretches of one speed; the keys; and, where single threads are
    // drawn, the output frames in view.
    [[nodiscard]] int partCount() const override;
    [[nodiscard]] DrawnPart part(int index) const override;
    [[nodiscard]] int currentPart() const override;
    void pressPart(int index) override;
    void setPart(int index, double value) override;

  Q_SIGNALS:
    void gapSelectionChanged();
    /// The timing changes under the hand: every step of one drag has its number.
    void timingDragged(const yarngap::Timing& changed, const QString& what, int drag);
    /// The drag was taken back with Escape.
    void dragTakenBack(const yarngap::Timing& before, const QString& what, int drag);
    /// A single edit, typed or chosen.
    void timingAsked(const yarngap::Timing& changed, const QString& what);
    /// Why an edit cannot be made.
    void refused(const QString& sentence);
    /// Decides about a source frame, as the plan counts them; nothing: takes the decision back.
    void decisionAsked(qint64 sourceFrame, std::optional<yarngap::CleanupKind> decision);
    /// The source sheet is to be shown at this frame.
    void sheetAsked(qint64 sourceFrame);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    bool event(QEvent* event) override;

  private:
    enum class Grip { key, stretch, ease, trimFirst, trimLast, select };
    struct Drag {
        Grip grip = Grip::key;
        int index = 0; // key or segment
        Timing before = {};
        QString what = {};
        QPointF from = {};
        int number = 0;
        bool decided = false; // moved far enough to tell which way
        bool upright = false;
        double framePixels = 1; // of the source rail when it began
    };
    void scrollTo(double start);
    void keepPlayheadInView(qint64 frame);
    void scrub(double x);
    void redraw(); ///< after a change of anything but playhead and stitches

    /// A key's ease handles lie at its sides, where a jump of speed is.
    [[nodiscard]] std::optional<int> handleUnder(const QPointF& place) const;
    [[nodiscard]] std::optional<Drag> dragUnder(const QPointF& place) const;
    [[nodiscard]] static Rational sourceBy(double frames, Qt::KeyboardModifiers modifiers);
    [[nodiscard]] double sourceDragged(double x) const;
    void drag(const QPointF& place, Qt::KeyboardModifiers modifiers);
    void dragSelection(const QPointF& place);
    void dragTrim(double pixels);
    void dragEase(const QPointF& place, bool oneSide);
    void dragKey(const QPointF& place, Qt::KeyboardModifiers modifiers);
    void dragStretch(const QPointF& place, Qt::KeyboardModifiers modifiers);
    void dragKeys(const Rational& by, bool scaled);
    void dragTo(const Timing& changed, const QString& what, int segment);

    void typeSpeed(const QPointF& place);
    /// The source frame whose place on its rail is under `place`, or, for a menu asked for by key, that of
    /// the playhead.
    [[nodiscard]] std::optional<std::int64_t> sourceFrameUnder(const QPointF& place, bool byKey) const;
    void addSourceMenu(QMenu& menu, std::int64_t frame);
    void ask(const QString& what, const std::function<TimeKeys(const TimeKeys&)>& change);
    void nudgeKey(int frames, int percents);
    /// `further` adds it or lets it go; else it comes last of those chosen, or stands alone.
    void choose(int key, bool further);
    void takeChosenOut();

    enum class PartKind { playhead, stretch, key, frame };
    struct PartPlace {
        PartKind kind = PartKind::playhead;
        std::int64_t index = 0; ///< of a stretch or key in the map, or the output frame
    };
    [[nodiscard]] PartPlace placeOfPart(int index) const;
    [[nodiscard]] std::vector<int> constantStretches() const;
    [[nodiscard]] int innerKeys() const; ///< of the map, without its ends
    [[nodiscard]] DrawnPart playheadPart() const;
    [[nodiscard]] DrawnPart stretchPart(int segment) const;
    [[nodiscard]] DrawnPart keyPart(int key) const;
    [[nodiscard]] DrawnPart framePart(std::int64_t output) const;

    void chooseUnit();
    void chooseAnchor();
    void placeButtons();

    Player& player_;
    bool fitted_ = true;
    QPixmap lasting_; // everything but playhead and stitches; null when it must be drawn again
    double panX_ = 0;
    int drags_ = 0;
    std::optional<Drag> drag_;
    TimeKeys copied_;
    QToolButton* curveButton_;
    QToolButton* keepLength_;
    QToolButton* anchorButton_;
    Anchor anchor_ = Anchor::first;
    QToolButton* unitButton_;
    QLineEdit* speedEditor_;
    std::function<void(const QString&)> typed_;
    QToolButton* fitButton_;
    QToolButton* inButton_;
    QToolButton* outButton_;
};

} // namespace yarngap::app
