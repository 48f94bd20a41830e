// The gaps of a shot whose in-betweens are to be doubted, worst first.
#pragma once

#include "core/progress.h"
#include "core/synthesis/planned_frames.h"

#include <cstdint>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// What may be wrong in a gap.
enum class DoubtReason {
    movesFar,      ///< farther than motion is found surely
    uncovered,     ///< much is seen from one side only
    crossing,      ///< things move past each other
    leavesPicture, ///< what is there comes from beyond an edge of the picture, or goes there
    blurred,       ///< it is blurred, so its outlines tell little
    lightChanges,  ///< the whole picture gets lighter or darker
    jerks,         ///< motion does not go on evenly from the frames beside
    differs,       ///< both pictures disagree along the motion, and nothing tells why
    repeats        ///< texture that looks the same a little further, so that motion may be found there
};
/// In files: "moves too far".
[[nodiscard]] std::string_view name(DoubtReason reason);

/// A place in pixels from the top left corner of the picture.
struct PictureBox {
    int x = 0, y = 0, width = 0, height = 0;
    friend bool operator==(const PictureBox&, const PictureBox&) = default;
};

/// A gap that a plan uses, as it looks at the output frame in it that is hardest to make.
struct DoubtfulGap {
    std::int64_t first = 0; ///< source frames at both ends
    std::int64_t last = 0;
    std::int64_t output = 0; ///< the output frame looked at, the nearest to the middle
    double doubt = 0;        ///< 0 (sure) to 1; see doubtIn()
    std::vector<DoubtReason> why;
    PictureBox box;        ///< where it looks worst
    double farthest = 0;   ///< how far things move in there, in pixels of the picture
    double widthShare = 0; ///< the same as a share of the picture's width

    friend bool operator==(const DoubtfulGap&, const DoubtfulGap&) = default;
};

/// From this doubt on a gap is told unless something else is asked for; see docs/quality.md.
inline constexpr double usualDoubtLimit = 0.28;

/// Looks at the motion of one flow frame: how far to doubt it, where, and why. `width` and `height` are those
/// of the picture.
///
/// doubt = 1 − exp(−√(4 φ (1 − φ) (s + 0.05 g)^0.7 f^0.3 (1 + e)^0.3) / 25), φ the phase, s the mean square
/// of the difference of both pictures along the motion, smoothed over 3 x 3 cells, f the root of its mean
/// fourth power, g the mean of slope² times speed, e the remake error of the frames beside (0 where it is not
/// known). A fast motion misses its place by more, which shows where there is detail; the fourth power tells
/// a torn wing from grain. doubtOf(), which is for comparing whole shots, ranks the frames of one shot worse
/// (see bench_mending).
DoubtfulGap doubtIn(const MotionLook& look, int width, int height);

class DoubtMemory;

/// One of the gaps of doubtfulGaps(): that of output frame `output`, as `memory` knows it or, where that is
/// null or does not, as it is seen now. Absent where nothing can be told. Throws what making frames throws.
std::optional<DoubtfulGap> doubtAt(const PlannedFrames& frames, std::int64_t output, DoubtMemory* memory,
                                   const std::stop_token& stop = {});

/// Every gap of which the plan of `frames` makes flow frames, worst first, the earlier first of two as bad.
/// Of frames with a shutter, and of those whose subject lies in a gap of its own, no doubt is told: they are
/// left out. What was seen before is taken from `memory`, and what is seen now is put there. Throws what
/// making frames throws, and Cancelled.
std::vector<DoubtfulGap> doubtfulGaps(const PlannedFrames& frames, const Progress& progress = {},
                                      const std::stop_token& stop = {}, DoubtMemory* memory = nullptr);

/// The output frames that doubtfulGaps() looks at, in order.
std::vector<std::int64_t> outputsToDoubt(const FramePlan& plan);

} // namespace yarngap
