// File names of results from a pattern.
#pragma once

#include "core/render/render_work.h"

#include <filesystem>
#include <set>
#include <string>

namespace yarngap {

/// `pattern` with what stands in braces filled in for `shot`, whose file runs at `rate`:
///
///     {shot}     its name            {method}   sample, blend, flow
///     {speed}    25, 33.3, "varied"  {rate}     23.976
///     {date}     2026-11-28          {version}  the next number that no file has, from 1 on; {version:3} as
///     001 {frame}    #####, the number of a sequence's frame; {frame:4} as ####
///
/// No version is among `taken`, which others are going to write. What a file name cannot hold becomes a dash.
/// Throws Error for another word in braces.
std::filesystem::path fileNamed(const std::string& pattern, const Shot& shot, const Timing& timing,
                                const std::set<std::filesystem::path>& taken = {});
/// The same, absolute, and with a number behind it where it is among `taken` all the same; put among them.
std::filesystem::path fileApart(const std::string& pattern, const Shot& shot, const Timing& timing,
                                std::set<std::filesystem::path>& taken);

/// Whether the pattern has a word that differs from shot to shot.
[[nodiscard]] bool namesShots(const std::string& pattern);

} // namespace yarngap
