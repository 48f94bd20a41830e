// The camera's own path, and how it is calmed.
#pragma once

#include "core/finish/mapping.h"
#include "core/finish/path_place.h"
#include "core/media/shot_frames.h"
#include "core/motion/vector_store.h"
#include "core/progress.h"

#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>
#include <stop_token>
#include <string_view>
#include <vector>

namespace yarngap {

/// Where the camera has gone by a source frame, told by where the whole picture has: since the first frame of
/// its run, things have turned by `turn` and grown by e^`grow` about the middle of the picture, and gone by x
/// and y, in pixels of the source.
struct CameraPoint {
    std::int64_t frame = 0;
    double x = 0, y = 0;
    double turn = 0;     ///< radians, from x towards y
    double grow = 0;     ///< natural logarithm
    bool begins = false; ///< the first of a run: what comes before has nothing to do with it

    friend bool operator==(const CameraPoint&, const CameraPoint&) = default;
};

/// Of rising frames, the first of which begins a run.
using CameraPath = std::vector<CameraPoint>;

/// Measures source frames `first` to `last` from the dominant motion of the whole picture: of coarse vectors
/// that agree both ways at places with texture, the motion that most share (see dominantMotions), and then
/// the similarity that fits those best which follow it, by iterated least squares with Tukey's weights. A
/// run ends at each gap of `cuts`, and where hardly anything agrees. Without `vectors` nothing is kept.
/// Throws what reading frames throws, and Cancelled.
CameraPath measuredCamera(ShotFrames& frames, const std::shared_ptr<VectorStore>& vectors, std::int64_t first,
                          std::int64_t last, std::span<const std::int64_t> cuts,
                          const Progress& progress = {}, const std::stop_token& stop = {});

enum class CalmBy {
    nothing,
    smoothing, ///< shakes quicker than a time are taken away
    still      ///< the camera stands, as on a tripod
};
[[nodiscard]] std::string_view name(CalmBy value);
CalmBy parseCalmBy(std::string_view text);

/// A plain value.
struct Calm {
    CalmBy by = CalmBy::nothing;
    double seconds = 1;   ///< of the source: what shakes with this period or a shorter one goes
    CameraPath path = {}; ///< as it was measured; empty: not yet

    static constexpr double shortest = 0.05;
    static constexpr double longest = 60;

    [[nodiscard]] bool isCalming() const { return by != CalmBy::nothing && !path.empty(); }
    friend bool operator==(const Calm&, const Calm&) = default;
};

/// What a calmed picture of a shot is moved by.
///
/// The way S of the camera at each frame (a similarity) is averaged with Gaussian weights of the deviation
/// 0.4 × seconds, which leaves 4 % of a shake with that period and less of quicker ones; the picture is moved
/// by M S⁻¹, with M the average. It is that of a line fitted with these weights (Cleveland, Robust locally
/// weighted regression, 1979), so that a pan goes on evenly at both ends of a run as well. Nothing is done
/// about what a rolling shutter bends.
class CalmedCamera {
  public:
    /// `width` and `height` of the source, and how wide its pixels are for their height.
    CalmedCamera(const Calm& calm, int width, int height, double pixelAspect, double framesPerSecond);

    /// From source pixels to source pixels, both scaled across by the pixel aspect so that they are square.
    [[nodiscard]] Plane at(const PathPlace& place) const;
    /// The way of the camera at a source frame, in the same places.
    [[nodiscard]] Plane way(std::int64_t frame) const;

  private:
    /// The way at each point of the path, the run it belongs to, and the smoothed way once it was asked for.
    struct Ways;
    [[nodiscard]] Plane planeOf(const CameraPoint& point) const;
    [[nodiscard]] std::size_t indexOf(std::int64_t frame) const;
    [[nodiscard]] Plane smoothed(std::size_t point) const;
    [[nodiscard]] Plane smooth(std::size_t point) const;
    [[nodiscard]] CameraPoint between(const PathPlace& place) const;

    Calm calm_;
    PicturePoint middle_;
    double aspect_;
    std::vector<double> weights_; ///< of a frame and those on one side of it
    std::shared_ptr<Ways> ways_;
};

/// Direction in which the picture goes between two source places, in degrees from x towards y, −180 to 180;
/// 0 where it does not move.
double directionOf(const CameraPath& path, double from, double to);

} // namespace yarngap
