// Which pairs of a guide contradict others.
#pragma once

#include "core/image/image.h"
#include "core/settings/guide.h"

#include <span>
#include <vector>

namespace yarngap {

/// Places of the pairs that are left out, in order: see contradictingPairs in guided_motion.h. `a` and `b`
/// are the pictures at both ends of the gap.
std::vector<std::size_t> contradictingPairs(const Image& a, const Image& b, std::span<const GuidePair> pairs);

} // namespace yarngap
