// What lies behind a region: the background, from frames in which it is seen.
#pragma once

#include "core/mending/carried_outlines.h"
#include "core/mending/patch_pictures.h"

#include <array>
#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// Brings what a patch hides from frames farther away. The camera's motion is the plane motion that most of
/// the picture shares in each gap (see dominantMotions), and by it a place is followed from frame to frame,
/// up to `reach` frames before and after, as far as no cut lies between. A place is taken from the nearest
/// frames in which it lies outside the outline as carried there, and inside the picture; the closer one
/// counts first, and softly at the outline's edge. A place that lies inside the outline in every frame, as
/// where the outline keeps to the background and things pass through it, is taken from the frame that shows
/// the middle one of all values of luma: what is seen there most of the time. Thread-safe.
class WhatLiesBehind {
  public:
    static constexpr std::int64_t reach = 24;

    /// `cuts` are gaps, in order.
    WhatLiesBehind(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                   std::vector<std::int64_t> cuts, std::shared_ptr<const CarriedOutlines> outlines);

    /// `frame`, which lies at `position` on the source axis, with the background put in inside `area`.
    [[nodiscard]] Image over(const Image& frame, const Patch& patch, const Rational& position,
                             const PictureArea& area, const std::stop_token& stop = {}) const;
    /// What that depends on besides the outlines.
    [[nodiscard]] std::string key(const Rational& position) const;

  private:
    /// A motion of the whole plane, row by row: see PlaneMotion.
    using Plane = std::array<double, 9>;
    /// Places of frame `gap` to those of the next.
    [[nodiscard]] Plane camera(std::int64_t gap, const std::stop_token& stop) const;
    [[nodiscard]] bool isCut(std::int64_t gap) const;

    std::shared_ptr<ShotFrames> source_;
    std::shared_ptr<VectorStore> vectors_;
    std::vector<std::int64_t> cuts_;
    std::shared_ptr<const CarriedOutlines> outlines_;
    mutable std::mutex mutex_;
    mutable std::map<std::int64_t, Plane> known_;
};

} // namespace yarngap
