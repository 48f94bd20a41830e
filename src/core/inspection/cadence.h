// Scan and cadence of a shot from its pictures: progressive, interlaced, or film frames spread over fields.
#pragma once

#include "core/inspection/frame_metrics.h"

#include <cstdint>
#include <span>
#include <string_view>
#include <vector>

namespace yarngap {

enum class CadenceKind {
    progressive,  ///< both fields of each frame from one moment (2:2 in phase is the same thing)
    interlaced,   ///< each field its own moment
    pulldown32,   ///< four film frames over five coded ones, fields 2 3 2 3
    pulldown2332, ///< four film frames over five coded ones, fields 2 3 3 2
    shifted22     ///< film frames over two fields each, but of neighbouring coded frames
};

[[nodiscard]] std::string_view name(CadenceKind kind);

/// A stretch of coded frames with one cadence in one unbroken phase.
struct CadenceRun {
    std::int64_t first = 0;
    std::int64_t last = 0; ///< included
    CadenceKind kind = CadenceKind::progressive;
    bool topFirst = true; ///< means nothing for progressive
    /// Place of frame `first` in the cycle of five, 0 to 4, for pulldown: 0 and 1 are whole film frames, as
    /// is 4; 2 and 3 (only 2 in 2:3:3:2, where 3 is whole) hold fields of two.
    int phase = 0;
    double evidence = 0; ///< frames' worth of motion that speaks for it; under 2 the pictures hardly tell

    friend bool operator==(const CadenceRun&, const CadenceRun&) = default;
};

/// The most likely runs, covering all frames in order; empty for no frames.
///
/// Each frame with enough motion is compared with what each place of each cadence looks like: which of the
/// three weaves in FrameMetrics comb, and whether one field repeats the one before. The cheapest path through
/// all frames is found by dynamic programming (Viterbi 1967), where leaving the cycle costs as much as four
/// frames that do not fit, so that the phase is kept through still pictures and odd frames, and a real break
/// is found at its frame.
std::vector<CadenceRun> trackCadence(std::span<const FrameMetrics> frames);

} // namespace yarngap
