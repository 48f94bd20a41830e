// What a finish needs to know of the pictures, measured once and kept in it.
#pragma once

#include "core/finish/finish.h"
#include "core/finish/frames_with_finish.h"
#include "core/progress.h"

#include <cstdint>
#include <optional>
#include <span>
#include <stop_token>

namespace yarngap {

/// The grain of source frames `first` to `last`: the mean of a few of them, evenly spread. Throws what
/// reading frames throws, and Cancelled.
GrainLook measuredGrain(ShotFrames& source, std::int64_t first, std::int64_t last,
                        const std::stop_token& stop = {});

/// Whether a finish uses what is not measured yet: the camera's path, or the shot's own grain.
bool lacksMeasures(const Finish& finish);
/// The finish with what it lacks measured on source frames `first` to `last` and, for the camera, two seconds
/// beside. `cuts` are gaps, in order. Throws what reading frames throws, and Cancelled.
Finish withMeasures(Finish finish, ShotFrames& source, const std::shared_ptr<VectorStore>& vectors,
                    std::int64_t first, std::int64_t last, std::span<const std::int64_t> cuts,
                    const Progress& progress = {}, const std::stop_token& stop = {});

struct HiddenEdges {
    double scale = 1;                ///< the least that hides all edges
    std::int64_t worst = -1;         ///< output frame that needs it; −1 where none does
    std::int64_t cannotBeHidden = 0; ///< frames of which no scale up to `largest` hides the edges
    std::int64_t firstSuch = -1;     ///< the first of them

    static constexpr double largest = 2; ///< beyond it there is little left to be seen
};

/// The least scale that hides the edges of output frames `first` to `last`: borders that hold and calm lay
/// bare, and what no source frame has (see scaleThatHides), for which frames are made, or taken as they were
/// kept. `unfinished` are the frames before `finish`. Throws what making frames throws, and Cancelled.
HiddenEdges leastHidingScale(const OutputFrames& unfinished, const Finish& finish, std::int64_t first,
                             std::int64_t last, const Progress& progress = {},
                             const std::stop_token& stop = {});

} // namespace yarngap
