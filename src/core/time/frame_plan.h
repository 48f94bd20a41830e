// The frame plan: for each output frame, which source frames make it, how, and why. Pure data.
#pragma once

#include "core/time/shake.h"
#include "core/time/time_map.h"
#include "core/time/timing.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace yarngap {

/// How in-betweens are made.
enum class Method { sample, blend, flow };

/// Gaps `first` to `last`, both included, whose in-betweens are made otherwise; gap n lies between source
/// frames n and n + 1.
struct MethodStretch {
    std::int64_t first = 0;
    std::int64_t last = 0;
    Method method = Method::sample;

    friend bool operator==(const MethodStretch&, const MethodStretch&) = default;
};

/// What the pictures of a shot say about its gaps.
struct GapFindings {
    std::vector<std::int64_t> cuts;    ///< gaps that are cuts, in order
    std::vector<std::int64_t> repeats; ///< source frames that show again what the one before shows, in order
    std::vector<Shake> shakes;         ///< of a hand-held camera, where it can be told, in order of gaps

    friend bool operator==(const GapFindings&, const GapFindings&) = default;
};

/// One method for a shot, others for stretches of it.
struct Methods {
    Methods(Method everywhere) // NOLINT(google-explicit-constructor): most shots have one
        : method(everywhere) {}
    Method method;
    std::vector<MethodStretch> stretches; ///< in order, none overlapping
    /// Gaps that are cuts, in order: nothing is made between their frames.
    std::vector<std::int64_t> cuts;
    /// Source frames that show again what the one before shows, in order: flow passes over them, so that
    /// motion goes on evenly from the frame before to the one after. Of pictures shown more than
    /// `longestHold` times none is passed over: they stand still on purpose.
    std::vector<std::int64_t> repeats;
    static constexpr int longestHold = 4;
    /// How a hand-held camera moves inside gaps, in order of gaps: flow follows it.
    std::vector<Shake> shakes;
    /// Originals among flow frames go through synthesis too.
    bool evenTexture = false;
    /// Motion blur of flow frames: how long the shutter is open, in output frames; 180° is 1/2. 0 for none.
    Rational shutter = 0;

    [[nodiscard]] bool isCut(std::int64_t gap) const;
    [[nodiscard]] bool isRepeat(std::int64_t frame) const;
    [[nodiscard]] std::optional<Shake> shakeOf(std::int64_t gap) const;
    /// The two kept source frames around gap `gap`: it and the next, unless repeats are passed over. Never
    /// across a cut nor beyond frame `last`.
    [[nodiscard]] std::pair<std::int64_t, std::int64_t> keptAround(std::int64_t gap, std::int64_t last) const;
    [[nodiscard]] Method at(std::int64_t gap) const;
};

/// The stretches with gaps `first` to `last` given another method; where that is `everywhere` none is kept.
std::vector<MethodStretch> withMethodOn(const std::vector<MethodStretch>& stretches, std::int64_t first,
                                        std::int64_t last, Method method, Method everywhere);

/// What an output frame is.
enum class FrameKind {
    original, ///< a source frame, untouched, shown once at the output frame nearest to it
    repeat,   ///< the same source frame shown again
    blend,    ///< a weighted mean of source frames
    flow,     ///< pixels moved along motion vectors
    held      ///< past the last frame there is: the last one stays
};

[[nodiscard]] std::string_view name(Method method);
[[nodiscard]] std::string_view name(FrameKind kind);
/// Reads "sample", "blend" or "flow"; throws Error listing them.
Method parseMethod(std::string_view text);

/// One output frame.
struct PlanRow {
    std::int64_t output = 0; ///< output frame, counted from 0
    Position position;       ///< where it lies on the source axis
    FrameKind kind = FrameKind::original;
    Method method = Method::sample; ///< the method in force, also where it had nothing to do
    std::int64_t first = 0;         ///< first source frame used
    std::int64_t last = 0;          ///< last source frame used, included
    /// The frames between first and last repeat the first and are passed over.
    bool bridged = false;
    /// Of a flow row: the source frames before its first and after its last that tell how paths bend between
    /// them; −1 where there is none, or it shows another scene or the same picture again, or such a repeat
    /// lies between first and last.
    std::int64_t before = -1;
    std::int64_t after = -1;
    /// Of a flow row: how the camera shakes in the gap of its position, where that is known.
    std::optional<Shake> shake;
    /// Source frames covered by the output frame, for FrameKind::blend: 1 at speeds up to 100 % (a
    /// cross-fade of two), the step above (all frames the output frame lasts over); below −1 at speeds above
    /// 100 % backwards.
    Rational span = 1;
    /// Source frames during which the shutter is open, around the position; 0 for a moment.
    Rational open = 0;
    /// The position lies between the two frames of a cut, so one of them is shown.
    bool atCut = false;

    friend bool operator==(const PlanRow&, const PlanRow&) = default;
};

/// What was done to a source frame before the plan began: timestamps made even repeat a frame of the file
/// here and leave one out there.
struct SourceMark {
    std::int64_t frame = 0;   ///< source frame, as the plan counts
    bool repeated = false;    ///< shows the same frame of the file as the source frame before
    std::int64_t leftOut = 0; ///< frames of the file between it and the source frame before

    friend bool operator==(const SourceMark&, const SourceMark&) = default;
};

/// What becomes of the output frames that lie past the last frame of the trim.
enum class Tail {
    none,       ///< there are none
    beyondTrim, ///< made with frames after the trim, which the file has
    held        ///< the file ends there, or whole frames are sampled; the last source frame stays
};

/// The whole plan.
struct FramePlan {
    std::vector<PlanRow> rows; ///< row n is output frame n
    Tail tail = Tail::none;
    std::int64_t tailFrames = 0;  ///< output frames concerned by the tail
    std::int64_t mediaFrames = 0; ///< source frames that the file has
    /// Output frames at the beginning that lie outside the trim, where a time map begins there.
    std::int64_t headFrames = 0;
    bool headHeld = false; ///< they hold the first frame there is; else the file has frames for them
    std::vector<SourceMark>
        marks; ///< of source frames that are marked, in order; set by who interprets the file

    /// The mark of a source frame, or null.
    [[nodiscard]] const SourceMark* markOf(std::int64_t sourceFrame) const;

    [[nodiscard]] std::int64_t count(FrameKind kind) const;
    /// A sentence about the head and one about the tail, empty when there is nothing to say.
    [[nodiscard]] std::string endsSentence() const;
};

/// How far a flow row lies from its first source frame towards its last, 0 to 1.
Rational phaseOf(const PlanRow& row);

/// Makes the plan. `mediaFrames` is the number of frames in the file, above `timing.to`.
/// Throws Error when the timing is out of range (see validate) or the trim leaves the file.
FramePlan makePlan(const Timing& timing, const Methods& methods, std::int64_t mediaFrames);

/// Share of source frame `frame` in a blend row, 0 to 1: the length of [frame, frame+1) that lies inside
/// [position, position + span), divided by span. Frames past `row.last` fall to `row.last`, so that the
/// shares of first..last always add up to 1. Backwards frame k lasts over (k − 1, k], and what lies before
/// `row.first` falls to it.
double blendShare(const PlanRow& row, std::int64_t frame);

} // namespace yarngap
