// The frame plan: for each output frame, which source frames make it, how, and why. Pure data.
#pragma once

#include "core/time/time_map.h"
#include "core/time/timing.h"
#include "core/time/treatment.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace yarngap {

/// What an output frame is.
enum class FrameKind {
    original, ///< a source frame, untouched, shown once at the output frame nearest to it
    repeat,   ///< the same source frame shown again
    blend,    ///< a weighted mean of source frames
    flow,     ///< pixels moved along motion vectors
    held      ///< past the last frame there is: the last one stays
};

[[nodiscard]] std::string_view name(FrameKind kind);

/// One output frame.
struct PlanRow {
    std::int64_t output = 0; ///< output frame, counted from 0
    Position position;       ///< where it lies on the source axis
    FrameKind kind = FrameKind::original;
    Method method = Method::sample; ///< the method in force, also where it had nothing to do
    std::size_t settings = 0;       ///< place in FramePlan::settings of what is in force
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
    /// Of a flow row whose subject has a gap of its own: its first and last source frame. Those of the row
    /// are the background's then.
    std::optional<std::pair<std::int64_t, std::int64_t>> subject = {};
    /// The position lies between the two frames of a cut, so one of them is shown.
    bool atCut = false;
    /// The mend in force, as a place among those of the shot; set by who knows them. Only of frames that it
    /// has something to do with.
    std::optional<std::size_t> mend = {};

    friend bool operator==(const PlanRow&, const PlanRow&) = default;
};

/// What was done to a source frame before the plan began: timestamps made even repeat a frame of the file
/// here and leave one out there, and the editor's cleanup makes frames anew or takes them out.
struct SourceMark {
    enum class Made {
        no,         ///< it is as the file has it
        passedOver, ///< it shows what the frame before it shows
        rebuilt,    ///< made from frames before and after
        restored,   ///< some places of it are
        putIn       ///< made where the file has no frame
    };
    std::int64_t frame = 0;    ///< source frame, as the plan counts
    bool repeated = false;     ///< shows the same frame of the file as the source frame before
    std::int64_t leftOut = 0;  ///< frames of the file between it and the source frame before
    Made made = Made::no;      ///< by the editor's decision
    std::int64_t takenOut = 0; ///< frames between it and the source frame before, by the editor's decision

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
    std::vector<PlanRow> rows;         ///< row n is output frame n
    std::vector<GapSettings> settings; ///< in force somewhere; each row names its own
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

/// The same of the subject of a row that has a gap of its own.
Rational subjectPhaseOf(const PlanRow& row);

/// Makes the plan. `mediaFrames` is the number of frames in the file, above `timing.to`.
/// Throws Error when the timing is out of range (see validate) or the trim leaves the file.
FramePlan makePlan(const Timing& timing, const Treatment& treatment, std::int64_t mediaFrames);

/// Share of source frame `frame` in a blend row, 0 to 1: the length of [frame, frame+1) that lies inside
/// [position, position + span), divided by span. Frames past `row.last` fall to `row.last`, so that the
/// shares of first..last always add up to 1. Backwards frame k lasts over (k − 1, k], and what lies before
/// `row.first` falls to it.
double blendShare(const PlanRow& row, std::int64_t frame);

} // namespace yarngap
