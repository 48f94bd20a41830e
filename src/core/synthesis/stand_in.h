// Where a made frame gives way to something simpler.
#pragma once

#include "core/synthesis/mid_motion.h"

#include <vector>

namespace yarngap {

/// How much of the stand-in each cell shows, 0 to 1, for trust as in `mid.trust`.
///
/// Trust is averaged over a window of a sixtieth of the width, at least nine cells, first, twice, so that the
/// border of a region follows its middle and not single cells; the weight falls from 1 to 0 while the mean
/// rises from 15 percent points below `limitPercent` to 15 above it, along 3s² − 2s³. Both make the change
/// soft in space, and in time where trust changes slowly.
std::vector<float> standInWeights(const MidMotion& mid, int limitPercent);

} // namespace yarngap
