// Guides: what an editor has shown about the motion in one gap.
#pragma once

#include "core/image/picture_point.h"

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

namespace yarngap {

/// "This here goes there."
struct GuidePair {
    PicturePoint from; ///< in the source frame at the beginning of the gap
    PicturePoint to;   ///< in the one at its end
    friend bool operator==(const GuidePair&, const GuidePair&) = default;
};

/// Pairs of points between two source frames; the estimate of their gap follows them. A plain value.
struct Guide {
    std::int64_t first = 0; ///< source frames at both ends of the gap; in another gap it says nothing
    std::int64_t last = 0;
    std::vector<GuidePair> pairs;

    static constexpr std::size_t mostPairs = 100;

    friend bool operator==(const Guide&, const Guide&) = default;
};

/// Throws Error, with what is wrong, unless the gap has a length and all points lie near the picture.
void validate(const Guide& guide);

/// Different for pairs that lead elsewhere; empty without any.
std::string keyOf(const std::vector<GuidePair>& pairs);

} // namespace yarngap
