// The sound of output frames, stretched as their pictures are.
#pragma once

#include "core/sound/sound.h"
#include "core/time/frame_plan.h"
#include "core/time/rate.h"

#include <functional>
#include <stop_token>
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

/// A stretch of output in which time runs one way.
struct SoundPiece {
    enum class Kind {
        silent,   ///< time stands still
        asItIs,   ///< 100 %, the shot's own samples
        stretched ///< any other speed, at its own pitch
    };
    Kind kind = Kind::silent;
    bool backwards = false;
    std::int64_t first = 0; ///< index of its first row
    std::int64_t end = 0;   ///< behind its last row
};

/// How rows `first` to `last` fall into pieces.
std::vector<SoundPiece> soundPieces(const FramePlan& plan, std::int64_t first, std::int64_t last,
                                    const SourceTime& sourceTime, const Rate& outputRate);

/// Gives the shot's own sound between two seconds, counted from its first picture.
using ReadSound = std::function<Sound(double from, double to)>;

/// Sound for output frames `first` to `last`, (last − first + 1) / outputRate seconds long to the sample. At
/// 100 % it is the shot's own; at other speeds it is stretched at its own pitch, following ramps frame by
/// frame (Rubber Band's offline mode with a key-frame map); backwards it is turned round; where time stands
/// still it is silent. Throws Cancelled, and what `read` throws.
Sound soundOf(const FramePlan& plan, std::int64_t first, std::int64_t last, const SourceTime& sourceTime,
              const Rate& outputRate, const ReadSound& read, const std::stop_token& stop = {});

} // namespace yarngap
