// The sound of output frames, stretched as their pictures are.
#pragma once

#include "core/sound/sound.h"
#include "core/time/frame_plan.h"
#include "core/time/rate.h"

#include <functional>
#include <stop_token>
#include <string_view>
#include <utility>
#include <vector>

namespace yarngap {

/// When places on the source axis were filmed.
class SourceTime {
  public:
    /// Evenly, at a rate.
    SourceTime(const Rate& rate) // NOLINT(google-explicit-constructor): most sources are even
        : secondsOf_([frame = 1 / rate.toDouble()](const Position& at) { return at.toDouble() * frame; }) {}
    /// At uneven times: `secondsOf` gives the seconds since the first source frame.
    explicit SourceTime(std::function<double(const Position&)> secondsOf)
        : secondsOf_(std::move(secondsOf)) {}
    [[nodiscard]] double secondsAt(const Position& position) const { return secondsOf_(position); }

  private:
    std::function<double(const Position&)> secondsOf_;
};

/// What becomes of the sound of a shot.
enum class SoundUse {
    ownPitch,    ///< as long as the pictures, at its own pitch
    tape,        ///< as long as the pictures; its pitch follows the speed as that of a tape does
    atFullSpeed, ///< heard at 100 % forwards only, silent elsewhere
    none         ///< no sound
};
[[nodiscard]] std::string_view name(SoundUse use); ///< "pitch", "tape", "full-speed", "none"
/// Throws Error listing the names.
SoundUse parseSoundUse(std::string_view text);

/// How the sound of a plan is made.
struct SoundMaking {
    SoundUse use = SoundUse::ownPitch;
    SoundForm form = {};   ///< that `read` gives
    bool isFinal = false;  ///< at the best quality of the library; else quickly, for listening
    bool fadesEnds = true; ///< where the range begins and ends, against clicks
};

/// A stretch of output in which time runs one way.
struct SoundPiece {
    enum class Kind {
        silent,   ///< time stands still
        asItIs,   ///< 100 %, the shot's own samples
        stretched ///< any other speed
    };
    Kind kind = Kind::silent;
    bool backwards = false;
    std::int64_t first = 0; ///< index of its first row
    std::int64_t end = 0;   ///< behind its last row
};

/// How rows `first` to `last` fall into pieces.
std::vector<SoundPiece> soundPieces(const FramePlan& plan, std::int64_t first, std::int64_t last,
                                    const SourceTime& sourceTime, const Rate& outputRate);

/// Gives the shot's own sound between two seconds, counted from its first picture; silence where there is
/// none.
using ReadSound = std::function<Sound(double from, double to)>;

/// Samples of one channel before output frame `row`.
std::int64_t samplesBefore(std::int64_t row, const Rate& outputRate, int soundRate);

/// Sound for output frames `first` to `last`, to the sample as long as they are:
/// samplesBefore(last + 1) − samplesBefore(first). At 100 % it is the shot's own; at other speeds it is
/// stretched, following ramps frame by frame; backwards it is turned round; where time stands still it is
/// silent. Pieces are cross-faded over 6 ms. Throws Cancelled, and what `read` throws.
Sound soundOf(const FramePlan& plan, std::int64_t first, std::int64_t last, const SourceTime& sourceTime,
              const Rate& outputRate, const ReadSound& read, const SoundMaking& making = {},
              const std::stop_token& stop = {});

} // namespace yarngap
