#include "core/time/frame_plan.h"

#include "core/error.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// The source frames that may be used.
struct Reach {
    std::int64_t from, to;    ///< the trim
    std::int64_t first, last; ///< what the file has
};

PlanRow sampleRow(PlanRow row, const Reach& reach) {
    // Nearest frame; a tie goes to the earlier one, so that 50 % shows each frame twice from the first on.
    // Sampling shows whole frames, so it stays inside the trim: a flash of the next shot helps nobody.
    const std::int64_t nearest = row.position.frame + (row.position.phase > Rational(1, 2) ? 1 : 0);
    row.first = row.last = std::clamp(nearest, reach.from, reach.to);
    row.kind = nearest != row.first ? FrameKind::held : FrameKind::original;
    return row;
}

PlanRow blendRow(PlanRow row, const Rational& step, const Reach& reach) {
    const bool back = step < Rational(-1);
    row.span = back ? step : std::max(Rational(1), step);
    std::int64_t begin = row.position.frame;
    std::int64_t covered = row.position.frame + (row.position.phase == Rational(0) ? 0 : 1);
    if (back) { // seen from the other end: frame k lasts over (k − 1, k]
        begin = row.position.frame + (row.position.phase + row.span).floor() + 1;
    } else if (row.span != Rational(1)) {
        const Rational end = row.position.phase + row.span;
        covered = row.position.frame + (end - Rational(1)).floor() + (end.den() != 1 ? 1 : 0);
    }
    row.first = std::clamp(begin, reach.first, reach.last);
    row.last = std::clamp(covered, row.first, reach.last);
    row.kind = FrameKind::blend;
    if (row.first == row.last) {
        const bool exact = row.position == Position{row.first, 0} && row.span == Rational(1);
        row.kind = exact ? FrameKind::original : FrameKind::held;
        row.span = 1;
    }
    return row;
}

/// Names the frames beside a flow row, of a file whose last frame is `last`, and the shake of its gap; see
/// PlanRow::before.
void lookBeside(PlanRow& row, const Methods& methods, std::int64_t last) {
    row.before = row.after = -1;
    row.shake = methods.shakeOf(std::clamp(row.position.frame, row.first, row.last - 1));
    for (std::int64_t n = row.first + 1; n <= row.last; ++n)
        if (methods.isRepeat(n)) return;
    if (row.first > 0 && !methods.isCut(row.first - 1) && !methods.isRepeat(row.first))
        row.before = row.first - 1;
    if (row.last < last && !methods.isCut(row.last) && !methods.isRepeat(row.last + 1))
        row.after = row.last + 1;
}

PlanRow flowRow(PlanRow row, const Methods& methods, const Reach& reach) {
    row.first = std::clamp(row.position.frame, reach.first, reach.last);
    row.last = row.first;
    const auto [before, after] = methods.keptAround(row.first, reach.last);
    if (after > before + 1 && row.position.frame == row.first && row.position != Position{before, 0}) {
        row.first = before;
        row.last = after;
        row.bridged = true;
        row.kind = FrameKind::flow;
        return row;
    }
    if (row.position == Position{row.first, 0}) {
        row.kind = FrameKind::original;
    } else if (row.first == reach.last || row.position.frame < reach.first) {
        row.kind = FrameKind::held;
    } else {
        row.last = row.first + 1;
        row.kind = FrameKind::flow;
        lookBeside(row, methods, reach.last);
    }
    return row;
}

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

/// Keeps a row's source frames on that side of every cut on which it lies itself.
void stayInScene(PlanRow& row, const std::vector<std::int64_t>& cuts) {
    // The frame it lies on, or the one before it; a gap that is a cut has been dealt with before.
    const std::int64_t own = row.position.frame;
    const auto next = std::lower_bound(cuts.begin(), cuts.end(), own);
    if (next != cuts.end()) row.last = std::min(row.last, std::max(own, *next));
    if (next != cuts.begin()) row.first = std::max(row.first, std::min(own, *std::prev(next) + 1));
}

/// Motion blur and even texture: what else of a flow stretch goes through synthesis; see Methods.
void takeThroughSynthesis(PlanRow& row, const Methods& methods, const Rational& step,
                          std::int64_t mediaFrames) {
    if (row.method != Method::flow || row.kind == FrameKind::held || row.atCut) return;
    const Rational length = step < Rational(0) ? Rational(0) - step : step;
    const Rational open = length * methods.shutter;
    PlanRow made = row;
    if (row.bridged) {
        if (open == Rational(0)) return;
        made.open = open; // seen in its own gap alone
    } else if (open > Rational(0)) {
        const Rational place = Rational(row.position.frame) + row.position.phase;
        const Rational half = open / Rational(2);
        made.open = open;
        const std::int64_t opens = (place - half).floor();
        const std::int64_t closes = -(Rational(0) - place - half).floor(); // rounded up
        made.first = std::clamp<std::int64_t>(opens, 0, row.first);
        made.last = std::clamp<std::int64_t>(closes, row.last, std::max(row.last, mediaFrames - 1));
    } else if (methods.evenTexture && row.first == row.last) {
        if (row.last + 1 < mediaFrames && !methods.isCut(row.last)) {
            made.last = methods.keptAround(row.last, mediaFrames - 1).second;
            made.bridged = made.last > row.last + 1;
        } else {
            made.first = std::max<std::int64_t>(0, row.first - 1);
        }
    } else {
        return;
    }
    stayInScene(made, methods.cuts);
    if (made.first == made.last) return; // there is no other frame in this scene
    made.kind = FrameKind::flow;
    if (!made.bridged) lookBeside(made, methods, mediaFrames - 1);
    row = made;
}

bool pastTrim(const PlanRow& row, const Reach& reach) {
    return row.kind == FrameKind::held || row.last > reach.to || row.first < reach.from;
}

} // namespace

std::string_view name(Method method) {
    switch (method) {
    case Method::sample:
        return "frame sampling";
    case Method::blend:
        return "frame blending";
    case Method::flow:
        return "optical flow";
    }
    return "";
}

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

Method parseMethod(std::string_view text) {
    if (text == "sample") return Method::sample;
    if (text == "blend") return Method::blend;
    if (text == "flow") return Method::flow;
    throw Error("\"" + std::string(text) + "\" is not a method. Use sample, blend or flow.");
}

bool Methods::isCut(std::int64_t gap) const {
    return std::binary_search(cuts.begin(), cuts.end(), gap);
}

bool Methods::isRepeat(std::int64_t frame) const {
    return std::binary_search(repeats.begin(), repeats.end(), frame);
}

std::optional<Shake> Methods::shakeOf(std::int64_t gap) const {
    const auto at = std::lower_bound(shakes.begin(), shakes.end(), gap,
                                     [](const Shake& shake, std::int64_t g) { return shake.gap < g; });
    return at != shakes.end() && at->gap == gap ? std::optional(*at) : std::nullopt;
}

std::pair<std::int64_t, std::int64_t> Methods::keptAround(std::int64_t gap, std::int64_t last) const {
    const auto repeated = [this](std::int64_t frame) { return isRepeat(frame); };
    std::int64_t before = gap;
    std::int64_t after = gap + 1;
    while (after - before <= longestHold && repeated(before))
        --before;
    while (after - before <= longestHold && repeated(after))
        ++after;
    const bool held = after - before > longestHold;
    if (held || before < 0 || after > last || isCut(after - 1)) return {gap, gap + 1};
    return {before, after};
}

Method Methods::at(std::int64_t gap) const {
    const auto it = std::lower_bound(stretches.begin(), stretches.end(), gap,
                                     [](const MethodStretch& s, std::int64_t g) { return s.last < g; });
    return it != stretches.end() && it->first <= gap ? it->method : method;
}

std::vector<MethodStretch> withMethodOn(const std::vector<MethodStretch>& stretches, std::int64_t first,
                                        std::int64_t last, Method method, Method everywhere) {
    std::vector<MethodStretch> out;
    out.reserve(stretches.size() + 2);
    for (const MethodStretch& s : stretches) { // what the new one leaves of the others
        if (s.first < first) out.push_back({s.first, std::min(s.last, first - 1), s.method});
        if (s.last > last) out.push_back({std::max(s.first, last + 1), s.last, s.method});
    }
    if (method != everywhere) out.push_back({first, last, method});
    std::sort(out.begin(), out.end(),
              [](const MethodStretch& a, const MethodStretch& b) { return a.first < b.first; });
    std::vector<MethodStretch> joined;
    joined.reserve(out.size());
    for (const MethodStretch& s : out) {
        if (!joined.empty() && joined.back().last + 1 == s.first && joined.back().method == s.method)
            joined.back().last = s.last;
        else
            joined.push_back(s);
    }
    return joined;
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

FramePlan makePlan(const Timing& timing, const Methods& methods, std::int64_t mediaFrames) {
    validate(timing);
    if (timing.to >= mediaFrames)
        throw Error("The trim ends at frame " + std::to_string(timing.to) +
                    ", but the file has only frames 0 to " + std::to_string(mediaFrames - 1) +
                    ". Choose a last frame in that range.");

    const TimeMap map = timing.map();
    const Reach reach{timing.from, timing.to, 0, mediaFrames - 1};
    const Rational step = timing.step();
    FramePlan plan;
    plan.mediaFrames = mediaFrames;
    plan.rows.resize(static_cast<std::size_t>(timing.outputFrames()));
    for (std::size_t n = 0; n < plan.rows.size(); ++n) {
        PlanRow row;
        row.output = static_cast<std::int64_t>(n);
        row.position = map.at(row.output);
        if (timing.varies()) row.position = kept(row.position, reach);
        row.method = methods.at(row.position.frame);
        row.atCut = row.position.phase > Rational(0) && row.method != Method::sample &&
                    methods.isCut(row.position.frame);
        switch (row.atCut ? Method::sample : row.method) {
        case Method::sample:
            row = sampleRow(row, reach);
            if (row.atCut && row.kind == FrameKind::original) row.kind = FrameKind::repeat;
            break;
        case Method::blend: {
            constexpr std::int64_t fine = 1024; // a share finer than that is not seen
            Rational here = step;
            if (timing.varies()) {
                const double speed = map.speedAt(static_cast<double>(n));
                here = std::abs(speed) > 1 ? Rational(std::llround(speed * fine), fine) : Rational(1);
            }
            row = blendRow(row, here, reach);
            if (row.kind == FrameKind::blend) stayInScene(row, methods.cuts);
            break;
        }
        case Method::flow:
            row = flowRow(row, methods, reach);
            break;
        }
        if (pastTrim(row, reach)) {
            ++plan.tailFrames;
            if (plan.tail != Tail::held)
                plan.tail = row.kind == FrameKind::held ? Tail::held : Tail::beyondTrim;
        } else { // what lies before is no tail
            plan.tailFrames = 0;
            plan.tail = Tail::none;
        }
        plan.rows[n] = row;
    }
    while (plan.headFrames < static_cast<std::int64_t>(plan.rows.size()) - plan.tailFrames &&
           pastTrim(plan.rows[static_cast<std::size_t>(plan.headFrames)], reach))
        ++plan.headFrames;
    plan.headHeld = plan.headFrames > 0 && plan.rows.front().kind == FrameKind::held;
    markRepeats(plan.rows);
    markStanding(plan.rows);
    if (methods.evenTexture || methods.shutter > Rational(0))
        for (PlanRow& row : plan.rows) {
            constexpr std::int64_t fine = 1024; // a blur longer by a thousandth is not seen
            const Rational here =
                timing.varies()
                    ? Rational(std::llround(map.speedAt(static_cast<double>(row.output)) * fine), fine)
                    : step;
            takeThroughSynthesis(row, methods, here, mediaFrames);
        }
    return plan;
}

Rational phaseOf(const PlanRow& row) {
    return (Rational(row.position.frame - row.first) + row.position.phase) / Rational(row.last - row.first);
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
