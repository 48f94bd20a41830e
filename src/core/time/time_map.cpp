#include "core/time/time_map.h"

#include "core/error.h"

namespace yarngap {

TimeMap::TimeMap(std::int64_t origin, const Rational& step)
    : origin_(origin)
    , step_(step) {
    if (step <= Rational(0)) throw Error("The time map needs a speed above 0.");
}

Position TimeMap::at(std::int64_t output) const {
    const Int128 n = static_cast<Int128>(output) * step_.num();
    const Int128 whole = floorDiv(n, step_.den());
    return {origin_ + static_cast<std::int64_t>(whole),
            Rational::reduced(n - whole * step_.den(), step_.den())};
}

} // namespace yarngap
