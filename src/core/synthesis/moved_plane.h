// A plane of an in-between, read from both frames of its gap.
#pragma once

#include "core/synthesis/mid_motion.h"
#include "core/synthesis/plane_cells.h"
#include "core/synthesis/plane_pair.h"

#include <vector>

namespace yarngap {

/// Reads both sides of a plane along the motion, or along several that may be right: then it is the mean of
/// what they show (see warpBetween).
class MovedPlane {
  public:
    /// Plane `p` of a and b, at `t` between them. Keeps references to `motions`, at least one, and `bend`,
    /// which is empty where paths are straight.
    MovedPlane(const Image& a, const Image& b, const std::vector<MidMotion>& motions, const MidMotion& bend,
               float t, int p);

    /// A row as it is made, kept for the next.
    struct Row {
        std::vector<MidCell> cells;     ///< of the first motion
        std::vector<float> values;      ///< what is shown
        std::vector<float> differences; ///< side a − side b along the first motion, 0 where one is not seen

      private:
        friend class MovedPlane;
        std::vector<MidCell> bends; // none where paths are straight
        std::vector<PlanePair::Places> places;
        std::vector<float> shares;
        std::vector<float> ofB;
        std::vector<MidCell> otherCells; // of another motion
        std::vector<std::size_t> where;  // another motion differs
        std::vector<float> agreeing;     // share of all motions that do not differ, of which the first is one
        std::vector<float> sums;         // of what others show that differ from the first
    };

    void read(int y, Row& row) const;
    /// The same, and the differences.
    void readWithDifferences(int y, Row& row) const;

  private:
    void follow(int y, Row& row) const;
    /// Makes row.values, which the first motion shows, the mean of what all of them show.
    void mixOthers(int y, Row& row) const;
    /// What row.otherCells show where they differ from the first: row.where and row.ofB.
    void readWhereDifferent(int y, Row& row) const;

    PlanePair pair_;
    PlaneCells cells_, bends_;
    std::vector<PlaneCells> others_;
    bool bent_;
};

} // namespace yarngap
