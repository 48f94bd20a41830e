// From the cells of a moment to the samples of a plane.
#pragma once

#include "core/image/image.h"
#include "core/synthesis/mid_motion.h"

#include <vector>

namespace yarngap {

/// Reads the cells of a MidMotion at the samples of one plane, whatever its subsampling: between the middles
/// of cells by linear interpolation, motion in samples of the plane.
///
///     const PlaneCells cells(mid, picture, p);
///     std::vector<MidCell> line;
///     cells.row(y, line);            // line[x] is for sample x of row y
class PlaneCells {
  public:
    /// Keeps a reference to `mid`, which belongs to a picture like `like`.
    PlaneCells(const MidMotion& mid, const Image& like, int p);

    /// Overwrites `line` with one cell per sample of row `y`.
    void row(int y, std::vector<MidCell>& line) const;

    /// Where a sample lies: between cell `first` and the next, this part of the way.
    struct Place {
        int first;
        float part;
    };

  private:
    static std::vector<Place> places(int samples, int shift, int cells);

    const MidMotion& mid_;
    std::vector<Place> across_, down_;
    bool isOfCells_;        ///< each sample lies on the middle of a cell
    float scaleX_, scaleY_; ///< samples in a cell
};

} // namespace yarngap
