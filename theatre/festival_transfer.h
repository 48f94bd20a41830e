// Film on video: the festival's tape of the show, with 3:2 pulldown and one edit that breaks it.
#pragma once

#include "core/progress.h"

#include <cstdint>
#include <filesystem>

namespace yarngap::theatre {

/// The film frames that coded frame `n` of the transfer shows. 2:3 pulldown, top field first; an edit after
/// coded frame `festivalEdit - 1` skips two frames of the cycle.
struct TransferFields {
    std::int64_t top = 0;
    std::int64_t bottom = 0;
};
inline constexpr std::int64_t festivalEdit = 48;
inline constexpr std::int64_t festivalFrames = 100;
TransferFields festivalFields(std::int64_t n);

/// Writes the transfer, 720 x 480 at 30000/1001 fps, which says nothing of its fields, as such files often
/// do; and, unless `truth` is empty, the clean film frames at 24000/1001 fps.
void makeFestivalTransfer(const std::filesystem::path& transfer, const std::filesystem::path& truth,
                          const Progress& progress = {});

} // namespace yarngap::theatre
