#include "core/memory_shares.h"

#include <algorithm>
#include <unistd.h>

namespace yarngap {

MemoryShares sharesOf(std::size_t bytes) {
    const std::size_t hundredth = std::max(bytes, leastMemory) / 100;
    return {.pictures = 32 * hundredth,
            .otherVersions = 19 * hundredth,
            .insights = 8 * hundredth,
            .vectors = 20 * hundredth,
            .sourceFrames = 15 * hundredth,
            .madeFrames = 6 * hundredth};
}

std::size_t machineMemory() {
    const long pages = ::sysconf(_SC_PHYS_PAGES);
    const long size = ::sysconf(_SC_PAGE_SIZE);
    constexpr std::size_t unknown = std::size_t{4} << 30;
    return pages > 0 && size > 0 ? static_cast<std::size_t>(pages) * static_cast<std::size_t>(size) : unknown;
}

} // namespace yarngap
