// Which frames a shot has once its cleanup is applied.
#pragma once

#include "core/cleaning/cleanup.h"

#include <cstdint>
#include <string>
#include <vector>

namespace yarngap {

/// Where a frame of the cleaned shot comes from.
struct FrameOrigin {
    enum class Kind {
        asItIs,     ///< untouched
        passedOver, ///< shows what the frame before it in the cleaned shot shows
        rebuilt,    ///< made again
        restored,   ///< some places made again
        putIn       ///< made where there was none, between interpreted frames `frame` and `frame` + 1
    };
    Kind kind = Kind::asItIs;
    std::int64_t frame = 0; ///< the interpreted frame that it stands for
    /// Of Kind::putIn the share of the way from `frame` to the next; of a rebuilt frame with a phase the
    /// share of the way between the kept frames around it; else 0.
    Rational phase = 0;
    bool hasPhase = false; ///< of a rebuilt frame: the editor has set it

    [[nodiscard]] bool isMade() const {
        return kind == Kind::rebuilt || kind == Kind::restored || kind == Kind::putIn;
    }
    friend bool operator==(const FrameOrigin&, const FrameOrigin&) = default;
};

/// Frames of a shot of `frames` interpreted ones, at least one, in order. Decisions about frames that there
/// are not change nothing; were all to be taken out, none is.
std::vector<FrameOrigin> cleanedFrames(const Cleanup& cleanup, std::int64_t frames);

/// A decision that cannot be carried out, and why.
struct IdleDecision {
    std::int64_t frame = 0;
    CleanupKind kind = CleanupKind::keep;
    std::string sentence;
};

/// The decisions that other decisions, cuts, or the ends of the shot leave without meaning. `cuts` are gaps
/// between interpreted frames, in order; the search for kept frames ends at them. Without a matte nothing can
/// be done to a part of a picture.
std::vector<IdleDecision> idleDecisions(const Cleanup& cleanup, std::int64_t frames,
                                        const std::vector<std::int64_t>& cuts, bool hasMatte = true);

/// Narrow enough for what lies at both sides of a damaged place to tell what belongs there, in pixels.
inline constexpr int easilyFilled = 16;

/// Whether other frames are made from the one that `decision` is about: it is kept, or the places that are
/// restored in it are narrow (see FilledFrames).
[[nodiscard]] bool isMadeFrom(const CleanupDecision& decision);

/// The nearest kept frames around a gap or a frame; −1 where there is none in this scene and within reach.
struct KeptAround {
    std::int64_t before = -1, after = -1;
    friend bool operator==(const KeptAround&, const KeptAround&) = default;
};
/// Around an interpreted frame that is to be made again. Those that are rebuilt, taken out or passed over
/// themselves are skipped, and restored ones with wide places while there are others.
KeptAround keptAround(const Cleanup& cleanup, std::int64_t frame, std::int64_t frames,
                      const std::vector<std::int64_t>& cuts);
/// Around a place between interpreted frames `gap` and `gap` + 1.
KeptAround keptBeside(const Cleanup& cleanup, std::int64_t gap, std::int64_t frames,
                      const std::vector<std::int64_t>& cuts);

} // namespace yarngap
