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
    /// Frames' worth of motion that speaks for it; 0 where the pictures do not tell, and it is a guess.
    double evidence = 0;

    friend bool operator==(const CadenceRun&, const CadenceRun&) = default;
};

/// The most likely runs, covering all frames in order; empty for no frames.
///
/// Each frame is compared with what each place of each cadence looks like: where in time its fields lie (see
/// FieldPlace), and whether one of them is that of the frame before. How loudly a frame speaks depends on how
/// well its places are known beside noise and coding. The cheapest path through all frames is found by
/// dynamic programming (Viterbi 1967), where leaving the cycle has a price, so that the phase is kept through
/// still pictures and odd frames, and a real break is found at its frame.
///
/// What the path says is believed when every path that says something else is dearer by a margin, which is
/// wider for what would remake the frames. One run of progressive frames with evidence 0 is returned when
/// nothing is believed; single runs that are not have evidence 0.
std::vector<CadenceRun> trackCadence(std::span<const FrameMetrics> frames);

} // namespace yarngap
