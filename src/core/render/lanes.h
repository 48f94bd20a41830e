// How many gaps a render has in hand at once.
#pragma once

#include "core/media/media_facts.h"

#include <cstddef>

namespace yarngap {

struct Lanes {
    std::size_t count = 1; ///< threads, each with a gap of its own
    std::size_t estimating =
        1; ///< of those, how many may look for motion at once, which takes the most memory
    std::size_t framesAtOnce = 1; ///< output frames that a thread takes at once
};

/// For pictures like these on a machine with so many cores and bytes of memory: one for each core, as far as
/// the estimations fit into 512 MB for each core, a quarter of the memory, and 8 GB.
[[nodiscard]] Lanes lanesFor(const MediaFacts& facts, std::size_t cores, std::size_t memoryBytes);

/// For this machine, or what of it this process may use; in a job of Slurm's, for the cores that it was
/// given.
[[nodiscard]] Lanes lanesFor(const MediaFacts& facts);

} // namespace yarngap
