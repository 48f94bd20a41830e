// Small arithmetic on keys. Internal to the edits of a time map.
#pragma once

#include "core/time/map_edits.h"

#include <cmath>
#include <cstdint>

namespace yarngap {

/// To 2⁻²⁴, as positions in eased segments are.
inline Rational fine(double value) {
    constexpr std::int64_t grain = std::int64_t{1} << 24;
    return {std::llround(value * static_cast<double>(grain)), grain};
}

/// Mean speed of segment `i`, in source frames per output frame.
inline Rational stepOf(const TimeKeys& keys, std::size_t i) {
    return (keys[i + 1].position - keys[i].position) / (keys[i + 1].output - keys[i].output);
}

/// Moves the keys from `i` on by `by` output frames.
inline void moveLater(TimeKeys& keys, std::size_t i, const Rational& by) {
    for (; i < keys.size(); ++i)
        keys[i].output = keys[i].output + by;
}

/// The keys, once validateKeys() has let them pass.
inline TimeKeys checked(TimeKeys keys) {
    validateKeys(keys);
    return keys;
}

} // namespace yarngap
