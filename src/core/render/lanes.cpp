#include "core/render/lanes.h"

#include "core/memory_shares.h"

#include <algorithm>
#include <charconv>
#include <cstdlib>
#include <string_view>
#include <thread>

namespace yarngap {

namespace {

/// Of a machine that Slurm shares out, what this job was given, even where nothing keeps it to that.
std::size_t coresAllowed() {
    const std::size_t cores = std::max(1U, std::thread::hardware_concurrency());
    const char* given = std::getenv("SLURM_CPUS_ON_NODE");
    const std::string_view text = given ? given : "";
    std::size_t number = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    return error == std::errc() && end == text.data() + text.size() && number > 0 ? std::min(cores, number)
                                                                                  : cores;
}

} // namespace

Lanes lanesFor(const MediaFacts& facts, std::size_t cores, std::size_t memoryBytes) {
    constexpr std::size_t forACore = std::size_t{512} << 20; // bytes
    constexpr std::size_t most = std::size_t{8} << 30; // bytes, lest several renders side by side take all
    constexpr std::size_t perPixel = 250;              // bytes of an estimation, its vectors included
    constexpr std::size_t waiting = std::size_t{64} << 20; // bytes of made frames, of each lane
    constexpr std::size_t mostFrames = 8;
    const std::size_t pixels = std::max<std::size_t>(1, static_cast<std::size_t>(facts.width) *
                                                            static_cast<std::size_t>(facts.height));
    const std::size_t budget = std::min({cores * forACore, memoryBytes / 4, most});
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
    return lanesFor(facts, coresAllowed(), machineMemory());
}

} // namespace yarngap
