// The best cure for each doubtful gap of a shot.
#pragma once

#include "core/mending/cures.h"

#include <cstdint>
#include <vector>

namespace yarngap {

/// What was found for a doubtful gap.
struct TriedGap {
    DoubtfulGap gap;
    std::vector<JudgedCure> cures; ///< the best first
    std::optional<Cure> best;      ///< absent where nothing betters it
};

/// Tries the usual cures on each of `gaps` whose doubt is `limit` or more, and gives what they came to, in
/// the order of `gaps`. `frames` are those of the plan without these mends. Gaps that are mended or accepted
/// in `mending` are passed over. Throws what making frames throws, and Cancelled.
std::vector<TriedGap> tryCures(const PlannedFrames& frames, const CureJudge& judge,
                               const std::vector<DoubtfulGap>& gaps, double limit, const Mending& mending,
                               const Progress& progress = {}, const std::stop_token& stop = {});

/// `mending` with the best cure of each tried gap that has one, as far as a shot can have so many mends.
Mending withBestCures(Mending mending, const std::vector<TriedGap>& tried);

} // namespace yarngap
