// How each method fills a row of the plan.
#pragma once

#include "core/time/frame_plan.h"

namespace yarngap {

/// The source frames that may be used.
struct Reach {
    std::int64_t from, to;    ///< the trim
    std::int64_t first, last; ///< what the file has
};

/// What is known about the place of a row.
struct RowPlace {
    const Treatment& treatment;
    const GapSettings& settings; ///< in force there
    Reach reach;
    Rational step; ///< source frames from this output frame to the next
};

/// Fills in which source frames make a row with a position and settings, and how.
using RowMaker = PlanRow (*)(PlanRow row, const RowPlace& place);
[[nodiscard]] RowMaker rowMakerOf(Method method);

/// Motion blur and even texture: takes an original or a moment of flow through synthesis where the settings
/// in force ask for it.
void takeThroughSynthesis(PlanRow& row, const RowPlace& place);

} // namespace yarngap
