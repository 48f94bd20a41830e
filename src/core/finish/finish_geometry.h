// All geometry of a finish as one mapping.
#pragma once

#include "core/finish/finish.h"
#include "core/finish/mapping.h"
#include "core/finish/path_place.h"
#include "core/media/media_facts.h"

#include <optional>

namespace yarngap {

/// Where an output frame lies on the source axis, and on paths that were measured there.
struct FinishPlace {
    Rational at;    ///< for keys
    PathPlace path; ///< for what was followed
};

/// What lies where in the result. All places are pixels of the full size.
///
///     const FinishGeometry geometry(finish, source->facts());
///     const Mapping mapping = geometry.at({.at = 12, .path = placeOfFrame(12)});
class FinishGeometry {
  public:
    FinishGeometry(const Finish& finish, const MediaFacts& source);

    [[nodiscard]] const ResultFrame& result() const { return result_; }
    [[nodiscard]] int sourceWidth() const { return width_; }
    [[nodiscard]] int sourceHeight() const { return height_; }
    /// Whether frames keep their size and nothing is moved at any place.
    [[nodiscard]] bool isNothing() const { return isNothing_; }
    [[nodiscard]] Mapping at(const FinishPlace& place) const;
    /// From source pixels to pixels of the result, without the lens; with edges hidden by `hiding`.
    [[nodiscard]] Plane toResult(const FinishPlace& place, double hiding) const;

    /// The least scale by which edges are hidden at this place: nothing of what is seen lies outside the
    /// source, of which a margin that scaling by `madeEdge` about its middle would hide is no picture either.
    /// Bars beside the fitted picture are no edges. Absent where no scale hides them, since the middle itself
    /// shows what lies outside.
    [[nodiscard]] std::optional<double> scaleThatHides(const FinishPlace& place, double madeEdge = 1) const;

  private:
    [[nodiscard]] Plane held(const FinishPlace& place, const Plane& calmed) const;
    [[nodiscard]] Plane placed(const Rational& at) const;
    [[nodiscard]] PicturePoint aim() const;

    Finish finish_;
    int width_, height_;  ///< of the source
    double sourceAspect_; ///< width over height of a pixel
    ResultFrame result_;
    CalmedCamera calmed_;
    Plane fit_;           ///< from square source pixels to pixels of the result
    PicturePoint middle_; ///< of what is seen of the picture as it is fitted, pixels of the result
    bool isNothing_ = true;
};

} // namespace yarngap
