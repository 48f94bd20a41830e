// Sound at another speed.
#pragma once

#include "core/sound/sound.h"

#include <map>
#include <stop_token>
#include <vector>

namespace yarngap {

/// `in` made `length` samples long at its own pitch, passing through the pairs of `map` (sample of `in`, of
/// the result): Rubber Band's offline mode, with its finer engine where `isFinal`, else the quicker one.
/// Throws Cancelled.
Sound stretched(const Sound& in, std::int64_t length, const std::map<std::size_t, std::size_t>& map,
                bool isFinal, const std::stop_token& stop);

/// `in` read at the places `at`, in its samples, one for each sample of the result; pitch follows speed as
/// that of a tape does. A windowed sinc (Kaiser, β = 8, 16 zero crossings to each side); where `at` moves by
/// more than a sample, its cutoff falls with the speed so that nothing folds back. Silence outside `in`.
/// Throws Cancelled.
Sound playedAt(const Sound& in, const std::vector<double>& at, const std::stop_token& stop);

} // namespace yarngap
