// A clip as a phone takes it: upright, stored lying, at a rate that varies with the light.
#pragma once

#include "core/progress.h"

#include <cstdint>
#include <filesystem>
#include <vector>

namespace yarngap::theatre {

inline constexpr int phoneClock = 240; ///< ticks a second in which frames are timed

/// When each of `frames` frames is taken, in ticks: 8 apart (30 fps) as a rule, 7 to 9 by haste of the phone,
/// 16 where it misses one.
std::vector<std::int64_t> phoneTimes(int frames);

/// Writes an H.264 MP4 of 960 x 540 with those times, which asks to be turned by 90°. Throws Error.
void makePhoneClip(const std::filesystem::path& target, const Progress& progress = {});

} // namespace yarngap::theatre
