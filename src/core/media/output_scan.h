// How output frames become the fields of a written file.
#pragma once

#include "core/media/frame_writer.h"

#include <cstdint>
#include <memory>
#include <string_view>

namespace yarngap {

enum class OutputScan {
    progressive,
    topFirst,    ///< interlaced, each field made at its own moment; the upper one first
    bottomFirst, ///< likewise, the lower one first
    pulldown32,  ///< 4 frames become 5 with fields of 2:3:2:3, the upper one first
    pulldown2332 ///< likewise with 2:3:3:2, which mixes frames in one of five only
};
[[nodiscard]] std::string_view name(OutputScan scan); ///< "progressive", "top-first", "pulldown-32" …
OutputScan parseOutputScan(std::string_view text);    ///< throws Error

/// The rate at which frames have to be made for a file of `fileRate`: twice that for interlaced ones, four
/// fifths of it for pulldown.
[[nodiscard]] Rate rateToMake(OutputScan scan, const Rate& fileRate);
/// The rate of the file made of frames at `made`.
[[nodiscard]] Rate rateWritten(OutputScan scan, const Rate& made);
/// How many frames of the file `made` frames become. What is missing in the last one repeats the last frame.
[[nodiscard]] std::int64_t framesWritten(OutputScan scan, std::int64_t made);
/// After how many frames the pattern begins anew.
[[nodiscard]] std::int64_t framesOfPattern(OutputScan scan);
/// Throws Error where a file of `fileRate` cannot have that scan: pulldown makes 29.97 (or 30, 59.94, 60).
void refuseScanAt(OutputScan scan, const Rate& fileRate);
/// How the file says its fields lie.
[[nodiscard]] Scan scanOf(OutputScan scan);

/// A writer that takes frames as they are made, weaves their fields and hands the result to `writer`.
std::unique_ptr<FrameWriter> weavingInto(std::unique_ptr<FrameWriter> writer, OutputScan scan);

/// Rows of `upper` in even lines, of `lower` in odd ones; of all planes.
[[nodiscard]] Image woven(const Image& upper, const Image& lower);

} // namespace yarngap
