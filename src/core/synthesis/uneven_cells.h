// Cells beside others that move otherwise, and what is not mixed across.
#pragma once

#include "core/synthesis/mid_motion.h"

#include <vector>

namespace yarngap {

/// Marks the seams of `mid`: where things meet that move differently, by 2 pixels or more. A mean of both
/// motions would be neither, and one's share of a side means nothing for the other.
void markSeams(MidMotion& mid);

/// Gives lone cells, with seams on three or four sides, the motion and share of the two on either side where
/// those move alike: alone, one shows a speck of something else. `shares` has one per cell. Seams are needed,
/// and kept up.
void joinLoneCells(MidMotion& mid, std::vector<float>& shares);

/// 3 x 3 mean of `shares`, so that the change from one side to the other is no hard one; cells that move
/// otherwise count a tenth, since one seen from one side alone would show a ghost of the other. Seams are
/// needed.
void softenShares(std::vector<float>& shares, const MidMotion& mid);

} // namespace yarngap
