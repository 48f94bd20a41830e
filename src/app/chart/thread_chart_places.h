// Where things lie in the thread chart, in pixels. Internal to it.
#pragma once

#include <algorithm>

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

/// Heights of the lanes, which share what the chart has: thumbnails come when there is room for them.
struct Places {
    double speedBottom = 86;
    double thumbnailTop = 0;
    double thumbnailHeight = 0; ///< 0: none
    double sourceY = 118;
    double outputY = 188;
    double readyY = 214;
    double rulerY = 232;
};

[[nodiscard]] inline Places placesIn(int height) {
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
    return p;
}

} // namespace yarngap::app::chart
