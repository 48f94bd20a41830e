// How the memory for work in the window is divided.
#pragma once

#include <cstddef>

namespace yarngap {

/// Bytes for each kind of thing that is kept because it may be wanted again. Together they are the limit that
/// the editor set; what a frame in the making takes comes on top.
struct MemoryShares {
    std::size_t pictures = 0;      ///< output frames as the screen shows them
    std::size_t otherVersions = 0; ///< the same of versions compared with, all together
    std::size_t insights = 0;      ///< what overlays and probe tell
    std::size_t vectors = 0;
    std::size_t sourceFrames = 0; ///< decoded
    std::size_t madeFrames = 0;   ///< before their finish, where they have one
};

inline constexpr std::size_t leastMemory = std::size_t{512} << 20;

/// Divides `bytes`, at least leastMemory.
MemoryShares sharesOf(std::size_t bytes);

/// Bytes of memory that this machine has; 4 GB when that cannot be told.
std::size_t machineMemory();

} // namespace yarngap
