// Frames that hold the picture before, told by how much each part of the picture changes.
#pragma once

#include "core/inspection/clean_findings.h"

#include <array>
#include <bitset>
#include <cstdint>
#include <span>
#include <vector>

namespace yarngap {

/// By how much each of 16 x 9 cells of a frame differs from the frame before, in quarter steps of 8 bit.
using CellChanges = std::array<std::uint8_t, std::size_t{16} * 9>;

/// Some of these cells.
using CellMask = std::bitset<std::size_t{16} * 9>;

struct HoldOptions {
    /// Only the cells that change most on their own account are looked at, not all that change.
    bool strongestOnly = false;
    /// Change that counts as none, in 8-bit steps, for each frame; empty where the changes of a hold are not
    /// known to be those of noise.
    std::span<const double> noise = {};
    /// The cells that are looked at, for each frame; empty for all.
    std::span<const CellMask> only = {};
};

/// Frames that repeat, in those parts, what the frame before shows, with how sure that is.
///
/// A cell moves when it changes by a step more, in a fifth of the frames within 12, than the stillest of the
/// other frames there or than most of this frame does. A frame is held when the cells that move change by
/// next to nothing, in sum and each for itself, while the frames that begin and end the hold change as usual:
/// motion that comes to rest does not go on at full speed. Pictures held for longer than five frames stand
/// still on purpose. Holds that keep a rhythm speak for each other. Never across `cuts`, first frames of
/// scenes in order.
std::vector<FoundFrame> heldFrames(std::span<const CellChanges> changes, std::span<const std::int64_t> cuts,
                                   const HoldOptions& options = {});

} // namespace yarngap
