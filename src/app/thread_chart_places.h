// Where things lie in the thread chart, in pixels. Internal to it.
#pragma once

namespace yarngap::app::chart {

inline constexpr double gutter = 84; // names of the lanes
inline constexpr double rightMargin = 24;
inline constexpr double speedTop = 38; // the speed lane
inline constexpr double speedBottom = 86;
inline constexpr double sourceY = 118;
inline constexpr double outputY = 188;
inline constexpr double readyY = 214;
inline constexpr double rulerY = 232;
inline constexpr double grasp = 7;            // pixels from the speed curve at which it can be taken
inline constexpr double easeReach = 16;       // pixels from a key to its ease handles
inline constexpr double curveOfSpeeds = 0.15; // below this speed the lane is even, above it logarithmic
inline constexpr double threadScale = 3;      // pixels per frame from which single threads are drawn
inline constexpr double shapeScale = 5;       // … and shapes; below, ticks stand for them
inline constexpr double ribbonGrain = 6;      // pixels over which ribbons mix the colours of their frames
inline constexpr double largestScale = 80;

} // namespace yarngap::app::chart
