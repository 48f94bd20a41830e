#include "core/time/frame_plan.h"

#include "core/error.h"
#include "core/time/row_makers.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// Positions further than a frame outside the trim stay at its end: a map may be longer than what was
/// trimmed.
Position kept(const Position& position, const Reach& reach) {
    if (position.frame > reach.to) return {reach.to + 1, 0};
    if (position.frame < reach.from - 1) return {reach.from - 1, 0};
    return position;
}

/// Rows that show again exactly what the row before shows, as in a freeze.
void markStanding(std::vector<PlanRow>& rows) {
    for (std::size_t n = 1; n < rows.size(); ++n)
        if (rows[n].method != Method::sample && rows[n].kind == FrameKind::original &&
            rows[n].position == rows[n - 1].position)
            rows[n].kind = FrameKind::repeat;
}

/// Distance from the row's position to source frame `row.first`.
Rational distance(const PlanRow& row) {
    const Rational d = Rational(row.position.frame - row.first) + row.position.phase;
    return d < Rational(0) ? Rational(0) - d : d;
}

/// Of each run of sampled rows that show one source frame, the nearest stays an original; the others repeat
/// it.
void markRepeats(std::vector<PlanRow>& rows) {
    for (std::size_t begin = 0; begin < rows.size();) {
        std::size_t end = begin;
        std::size_t best = begin;
        for (; end < rows.size() && rows[end].first == rows[begin].first &&
               (end == begin || rows[end].method == Method::sample) && rows[begin].method == Method::sample;
             ++end)
            if (rows[end].kind == FrameKind::original && distance(rows[end]) < distance(rows[best]))
                best = end;
        for (std::size_t i = begin; i < end; ++i)
            if (i != best && rows[i].kind == FrameKind::original) rows[i].kind = FrameKind::repeat;
        begin = std::max(end, begin + 1);
    }
}

bool pastTrim(const PlanRow& row, const Reach& reach) {
    return row.kind == FrameKind::held || row.last > reach.to || row.first < reach.from;
}

} // namespace

std::string_view name(FrameKind kind) {
    switch (kind) {
    case FrameKind::original:
        return "original";
    case FrameKind::repeat:
        return "repeat";
    case FrameKind::blend:
        return "blend";
    case FrameKind::flow:
        return "flow";
    case FrameKind::held:
        return "held";
    }
    return "";
}

std::int64_t FramePlan::count(FrameKind kind) const {
    return std::count_if(rows.begin(), rows.end(), [kind](const PlanRow& r) { return r.kind == kind; });
}

const SourceMark* FramePlan::markOf(std::int64_t sourceFrame) const {
    const auto it = std::lower_bound(marks.begin(), marks.end(), sourceFrame,
                                     [](const SourceMark& mark, std::int64_t n) { return mark.frame < n; });
    return it != marks.end() && it->frame == sourceFrame ? &*it : nullptr;
}

std::string FramePlan::endsSentence() const {
    const auto which = [](const char* end, std::int64_t frames) {
        return std::string("The ") + end +
               (frames == 1 ? " output frame " : " " + std::to_string(frames) + " output frames ");
    };
    std::string said;
    if (headFrames > 0) {
        said = which("first", headFrames);
        if (headHeld)
            said += headFrames == 1 ? "holds an end of the source; it lies outside the shot."
                                    : "hold an end of the source; they lie outside the shot.";
        else
            said += headFrames == 1 ? "uses frames outside the trim, which the file has."
                                    : "use frames outside the trim, which the file has.";
    }
    if (tail == Tail::none) return said;
    if (!said.empty()) said += ' ';
    said += which("last", tailFrames);
    const bool one = tailFrames == 1;
    if (tail == Tail::beyondTrim)
        return said + (one ? "uses" : "use") + " frames after the trim, which the file has.";
    return said + (one ? "holds" : "hold") + " the last source frame; there is none after it.";
}

namespace {

/// Source frames from output frame `n` to the next; where speed varies, to a thousandth: what is blended or
/// blurred longer by that is not seen.
Rational stepAt(const Timing& timing, const TimeMap& map, std::int64_t n) {
    constexpr std::int64_t fine = 1024;
    if (!timing.varies()) return timing.step();
    return {std::llround(map.speedAt(static_cast<double>(n)) * fine), fine};
}

PlanRow rowAt(const Position& position, std::int64_t output, const RowPlace& place) {
    PlanRow row;
    row.output = output;
    row.position = position;
    row.method = place.settings.method;
    row.atCut = row.position.phase > Rational(0) && row.method != Method::sample &&
                place.treatment.isCut(row.position.frame);
    row = rowMakerOf(row.atCut ? Method::sample : row.method)(row, place);
    if (row.atCut && row.kind == FrameKind::original) row.kind = FrameKind::repeat;
    return row;
}

/// Finds the rows at both ends that lie outside the trim.
void findEnds(FramePlan& plan, const Reach& reach) {
    for (const PlanRow& row : plan.rows) {
        if (pastTrim(row, reach)) {
            ++plan.tailFrames;
            if (plan.tail != Tail::held)
                plan.tail = row.kind == FrameKind::held ? Tail::held : Tail::beyondTrim;
        } else { // what lies before is no tail
            plan.tailFrames = 0;
            plan.tail = Tail::none;
        }
    }
    while (plan.headFrames < static_cast<std::int64_t>(plan.rows.size()) - plan.tailFrames &&
           pastTrim(plan.rows[static_cast<std::size_t>(plan.headFrames)], reach))
        ++plan.headFrames;
    plan.headHeld = plan.headFrames > 0 && plan.rows.front().kind == FrameKind::held;
}

} // namespace

FramePlan makePlan(const Timing& timing, const Treatment& treatment, std::int64_t mediaFrames) {
    validate(timing);
    if (timing.to >= mediaFrames)
        throw Error("The trim ends at frame " + std::to_string(timing.to) +
                    ", but the file has only frames 0 to " + std::to_string(mediaFrames - 1) +
                    ". Choose a last frame in that range.");

    const TimeMap map = timing.map();
    const Reach reach{timing.from, timing.to, 0, mediaFrames - 1};
    FramePlan plan;
    plan.mediaFrames = mediaFrames;
    plan.settings = treatment.settings.table();
    plan.rows.resize(static_cast<std::size_t>(timing.outputFrames()));
    const auto placeOf = [&](std::size_t settings, std::int64_t output) {
        return RowPlace{treatment, plan.settings[settings], reach, stepAt(timing, map, output)};
    };
    for (std::size_t n = 0; n < plan.rows.size(); ++n) {
        const auto output = static_cast<std::int64_t>(n);
        Position position = map.at(output);
        if (timing.varies()) position = kept(position, reach);
        const std::size_t settings = treatment.settings.indexAt(position.frame);
        plan.rows[n] = rowAt(position, output, placeOf(settings, output));
        plan.rows[n].settings = settings;
    }
    findEnds(plan, reach);
    markRepeats(plan.rows);
    markStanding(plan.rows);
    for (PlanRow& row : plan.rows)
        takeThroughSynthesis(row, placeOf(row.settings, row.output));
    return plan;
}

Rational phaseOf(const PlanRow& row) {
    return (Rational(row.position.frame - row.first) + row.position.phase) / Rational(row.last - row.first);
}

Rational subjectPhaseOf(const PlanRow& row) {
    return (Rational(row.position.frame - row.subject->first) + row.position.phase) /
           Rational(row.subject->second - row.subject->first);
}

double blendShare(const PlanRow& row, std::int64_t frame) {
    if (row.span < Rational(0)) {
        const Rational length = Rational(0) - row.span;
        // Backwards from the position: where the frame begins to be seen.
        const Rational begin = Rational(row.position.frame - frame) + row.position.phase;
        const Rational near = std::max(Rational(0), begin);
        const Rational far = frame == row.first ? length : std::min(length, begin + Rational(1));
        return far > near ? ((far - near) / length).toDouble() : 0.0;
    }
    const Rational begin =
        Rational(frame - row.position.frame) - row.position.phase; // frame's start, from position
    const Rational left = std::max(Rational(0), begin);
    const Rational right = frame == row.last ? row.span : std::min(row.span, begin + Rational(1));
    return right > left ? ((right - left) / row.span).toDouble() : 0.0;
}

} // namespace yarngap
