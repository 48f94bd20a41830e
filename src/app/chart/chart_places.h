// Where things lie in the thread chart: pixels of frames, speeds and positions, and back.
#pragma once

#include "app/document/source_timecode.h"
#include "app/playing/source_thumbnails.h"
#include "core/time/frame_plan.h"
#include "core/time/time_map.h"

#include <QCoreApplication>
#include <QPointF>
#include <QRectF>
#include <QSize>

#include <algorithm>
#include <memory>
#include <optional>

namespace yarngap::app::chart {

inline constexpr double gutter = 84; // names of the lanes
inline constexpr double rightMargin = 24;
inline constexpr double speedTop = 38;  // the speed lane
inline constexpr int leastHeight = 248; // without thumbnails
inline constexpr int roomyHeight = 264; // with them, and shorter threads
inline constexpr double leastThumbnail = 30;
inline constexpr double largestThumbnail = 72;
inline constexpr double grasp = 7;            // pixels from the speed curve at which it can be taken
inline constexpr double easeReach = 16;       // pixels from a key to its ease handles
inline constexpr double curveOfSpeeds = 0.15; // below this speed the lane is even, above it logarithmic
inline constexpr double threadScale = 3;      // pixels per frame from which single threads are drawn
inline constexpr double shapeScale = 5;       // … and shapes; below, ticks stand for them
inline constexpr double ribbonGrain = 6;      // pixels over which ribbons mix the colours of their frames
inline constexpr double largestScale = 80;
inline constexpr double doubtLane = 22; // height of the lane of doubts

/// Heights of the lanes, which share what the chart has: thumbnails come when there is room for them.
struct Places {
    double speedBottom = 86;
    double thumbnailTop = 0;
    double thumbnailHeight = 0; ///< 0: none
    double sourceY = 118;
    double outputY = 188;
    double doubtTop = 0;
    double doubtHeight = 0; ///< of the lane of doubts; 0: none
    double readyY = 214;
    double rulerY = 232;
};

/// `doubts`: with a lane for them, which takes its room from the threads.
[[nodiscard]] inline Places placesIn(int height, bool doubts = false) {
    Places p;
    double more = std::max(0, height - leastHeight);
    p.readyY += more;
    p.rulerY += more;
    p.outputY += more;
    if (height >= roomyHeight) {
        more = height - roomyHeight;
        p.thumbnailHeight = std::min(largestThumbnail, leastThumbnail + more * 0.4);
        more -= p.thumbnailHeight - leastThumbnail;
        p.sourceY += p.thumbnailHeight + 1;
    }
    p.speedBottom += more / 2;
    p.sourceY += more / 2;
    p.thumbnailTop = p.speedBottom + 3;
    if (doubts) {
        p.doubtHeight = doubtLane;
        p.outputY -= doubtLane;
        p.doubtTop = p.outputY + 8;
    }
    return p;
}

} // namespace yarngap::app::chart

namespace yarngap::app {

/// Distance between numbers on a ruler: 1, 2, 5, 10, 20 … frames, at least `wanted`.
std::int64_t numberStep(double wanted);

/// What the chart shows, how far it is zoomed, and where that puts things. It neither paints nor edits.
class ChartPlaces {
    Q_DECLARE_TR_FUNCTIONS(ThreadChart)
  public:
    /// Horizontal place of an output frame, in widget pixels, and back.
    [[nodiscard]] double xOf(double output) const;
    [[nodiscard]] double outputAt(double x) const;
    /// Place of a source frame on the source rail.
    [[nodiscard]] double xOfSource(double position) const { return sourceX(position); }
    /// Height of a speed (source seconds per output second) in the speed lane, and back.
    [[nodiscard]] double yOfSpeed(double speed) const;
    [[nodiscard]] double speedAtY(double y) const;
    /// Place of a key of the map in the lane.
    [[nodiscard]] QPointF placeOfKey(int key) const;
    [[nodiscard]] const chart::Places& places() const { return at_; }
    [[nodiscard]] double pixelsPerFrame() const { return scale_; }

  protected:
    struct Visible {
        std::int64_t first, last; // output frames
    };
    struct RailFrames {
        std::int64_t first, last; // source frames in view
        std::int64_t step;        // of those with a number, and a thumbnail
    };
    enum class Unit { frames, seconds, timecode };

    [[nodiscard]] int chartWidth() const { return size_.width(); }
    [[nodiscard]] int chartHeight() const { return size_.height(); }
    [[nodiscard]] Visible visible() const;
    [[nodiscard]] double sourceX(double position) const;
    [[nodiscard]] double laneWidth() const;
    [[nodiscard]] QRectF lanes() const;
    /// The speeds at the ends of the lane, for the map.
    void fitSpeeds();
    /// The source positions at the ends of the rail, where the speed varies.
    void fitRail(const Visible& v);
    [[nodiscard]] RailFrames railFrames(const Visible& v) const;
    [[nodiscard]] double thumbnailWidth() const;
    [[nodiscard]] double yOfPosition(double position) const;
    [[nodiscard]] double positionAtY(double y) const;
    [[nodiscard]] bool isJump(int key) const;
    [[nodiscard]] std::optional<int> stretchUnder(const QPointF& place) const;
    [[nodiscard]] std::optional<int> keyUnder(const QPointF& place) const;
    [[nodiscard]] QString unitText(std::int64_t output) const;
    [[nodiscard]] bool showsSourceTimecode() const { return unit_ == Unit::timecode && sourceTimecode_; }

    QSize size_;
    std::shared_ptr<const FramePlan> plan_;
    Timing timing_;
    std::optional<TimeMap> map_; // of the plan
    SourceThumbnails* thumbnails_ = nullptr;
    chart::Places at_;
    double start_ = 0;   // output frame at the left end
    double scale_ = 8;   // pixels per output frame
    double slowest_ = 0; // speeds at the bottom and the top of the lane
    double fastest_ = 1;
    double railFrom_ = 0; // source positions at the ends of the visible output frames, where the speed varies
    double railTo_ = 1;
    bool showsPositions_ = false;
    Unit unit_ = Unit::frames;
    SourceTimecode sourceTimecode_;
};

} // namespace yarngap::app
