// Motion blur: the moments that an open shutter sees.
#pragma once

#include "core/motion/vectors.h"

#include <cstdint>
#include <vector>

namespace yarngap {

/// A moment between source frames `frame` and the next, and its share of the exposure.
struct ShutterMoment {
    std::int64_t frame = 0;
    double phase = 0; ///< 0 ≤ phase < 1
    double share = 0;
};

/// Moments evenly spread over `open` source frames around `place`, each for the middle of its part of the
/// exposure.
///
/// So many that the ninth fastest tenth of `motion` (vectors of a gap) moves at most 1.5 pixels from one to
/// the next, between 3 and 32; more would not be seen, fewer would show as separate pictures. Moments before
/// `first` or after `last` are those frames. Moments on whole source frames are those frames themselves;
/// equal moments are joined.
std::vector<ShutterMoment> shutterMoments(const Vectors& motion, double place, double open,
                                          std::int64_t first, std::int64_t last);

} // namespace yarngap
