#include "core/render/lanes.h"

#include <algorithm>
#include <thread>

#include <unistd.h>

namespace yarngap {

Lanes lanesFor(const MediaFacts& facts, std::size_t cores, std::size_t memoryBytes) {
    constexpr std::size_t forACore = std::size_t{512} << 20; // bytes
    constexpr std::size_t perPixel = 250;                    // bytes of an estimation, its vectors included
    constexpr std::size_t waiting = std::size_t{64} << 20;   // bytes of made frames, of each lane
    constexpr std::size_t mostFrames = 8;
    const std::size_t pixels = std::max<std::size_t>(1, static_cast<std::size_t>(facts.width) *
                                                            static_cast<std::size_t>(facts.height));
    const std::size_t budget = std::min(cores * forACore, memoryBytes / 4);
    Lanes lanes;
    lanes.estimating =
        std::clamp<std::size_t>(budget / (perPixel * pixels), 1, std::max<std::size_t>(1, cores));
    // While the only one is busy, another thread makes the frames before.
    lanes.count = std::min(std::max<std::size_t>(1, cores), lanes.estimating + 1);
    constexpr std::size_t samplesOfPixel = 3;
    const std::size_t bytesOfFrame = pixels * samplesOfPixel * (facts.layout.depth > 8 ? 2 : 1);
    lanes.framesAtOnce = std::clamp<std::size_t>(waiting / bytesOfFrame, 1, mostFrames);
    return lanes;
}

Lanes lanesFor(const MediaFacts& facts) {
    const long pages = ::sysconf(_SC_PHYS_PAGES);
    const long pageBytes = ::sysconf(_SC_PAGE_SIZE);
    const std::size_t memory = pages > 0 && pageBytes > 0
                                   ? static_cast<std::size_t>(pages) * static_cast<std::size_t>(pageBytes)
                                   : std::size_t{4} << 30;
    return lanesFor(facts, std::max(1U, std::thread::hardware_concurrency()), memory);
}

} // namespace yarngap
