#include "core/time/row_makers.h"

#include <algorithm>

namespace yarngap {

namespace {

/// Keeps a row's source frames on that side of every cut on which it lies itself.
void stayInScene(PlanRow& row, const std::vector<std::int64_t>& cuts) {
    // The frame it lies on, or the one before it; a gap that is a cut has been dealt with before.
    const std::int64_t own = row.position.frame;
    const auto next = std::lower_bound(cuts.begin(), cuts.end(), own);
    if (next != cuts.end()) row.last = std::min(row.last, std::max(own, *next));
    if (next != cuts.begin()) row.first = std::max(row.first, std::min(own, *std::prev(next) + 1));
}

PlanRow sampleRow(PlanRow row, const RowPlace& place) {
    const Reach& reach = place.reach;
    // Nearest frame; a tie goes to the earlier one, so that 50 % shows each frame twice from the first on.
    // Sampling shows whole frames, so it stays inside the trim: a flash of the next shot helps nobody.
    const bool before = place.settings.sampleFrom == SampleFrom::before;
    const std::int64_t nearest =
        row.position.frame + (!before && row.position.phase > Rational(1, 2) ? 1 : 0);
    row.first = row.last = std::clamp(nearest, reach.from, reach.to);
    row.kind = nearest != row.first ? FrameKind::held : FrameKind::original;
    return row;
}

PlanRow blendRow(PlanRow row, const RowPlace& place) {
    const Rational& step = place.step;
    const Reach& reach = place.reach;
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
    if (row.kind == FrameKind::blend) stayInScene(row, place.treatment.found.cuts);
    return row;
}

/// Whether frame `n` repeats the one before and is to be passed over.
bool isPassedOver(std::int64_t n, const RowPlace& place) {
    return place.treatment.isPassedOver(n) ||
           (place.settings.inBetweens.synthesis.bridgeRepeats && place.treatment.isRepeat(n));
}

/// The two source frames around a gap that are not passed over.
std::pair<std::int64_t, std::int64_t> keptAround(std::int64_t gap, const RowPlace& place,
                                                 Part part = Part::background) {
    return place.treatment.keptAround(gap, place.reach.last,
                                      place.settings.inBetweens.synthesis.bridgeRepeats, part);
}

/// Names the frames beside a flow row, and the shake of its gap; see PlanRow::before.
void lookBeside(PlanRow& row, const RowPlace& place) {
    const Treatment& treatment = place.treatment;
    row.before = row.after = -1;
    row.shake.reset();
    if (place.settings.inBetweens.synthesis.bendPaths)
        row.shake = treatment.shakeOf(std::clamp(row.position.frame, row.first, row.last - 1));
    for (std::int64_t n = row.first + 1; n <= row.last; ++n)
        if (isPassedOver(n, place)) return;
    if (row.first > 0 && !treatment.isCut(row.first - 1) && !isPassedOver(row.first, place))
        row.before = row.first - 1;
    if (row.last < place.reach.last && !treatment.isCut(row.last) && !isPassedOver(row.last + 1, place))
        row.after = row.last + 1;
}

PlanRow flowRowOfBackground(PlanRow row, const RowPlace& place) {
    const Reach& reach = place.reach;
    row.first = std::clamp(row.position.frame, reach.first, reach.last);
    row.last = row.first;
    const auto [before, after] = keptAround(row.first, place);
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
        lookBeside(row, place);
    }
    return row;
}

/// A row on a source frame that is to go through synthesis because its subject is not there: between that
/// frame and one beside it. Unchanged where both lie in other scenes.
PlanRow besideOriginal(PlanRow row, const RowPlace& place) {
    if (!place.treatment.isCut(row.first))
        ++row.last;
    else if (row.first > 0 && !place.treatment.isCut(row.first - 1))
        --row.first;
    if (row.last > row.first) row.kind = FrameKind::flow;
    return row;
}

/// Where the subject lies in another gap than the background does, the row tells both.
PlanRow flowRow(PlanRow row, const RowPlace& place) {
    row = flowRowOfBackground(row, place);
    const std::int64_t own = row.position.frame;
    if (!place.treatment.hasParts() || row.kind == FrameKind::held || own < place.reach.first ||
        own >= place.reach.last)
        return row;
    const auto subject = keptAround(own, place, Part::subject);
    const bool isOnKept = row.position == Position{subject.first, 0};
    if (row.kind == FrameKind::original) {
        if (isOnKept) return row;
        row = besideOriginal(row, place);
    }
    if (row.kind != FrameKind::flow || subject == std::pair(row.first, row.last)) return row;
    row.subject = subject;
    row.before = row.after = -1;
    row.shake.reset();
    return row;
}

} // namespace

RowMaker rowMakerOf(Method method) {
    switch (method) {
    case Method::sample:
        return sampleRow;
    case Method::blend:
        return blendRow;
    case Method::flow:
        return flowRow;
    }
    return sampleRow;
}

void takeThroughSynthesis(PlanRow& row, const RowPlace& place) {
    const SynthesisOptions& asked = place.settings.inBetweens.synthesis;
    const Rational& step = place.step;
    const std::int64_t last = place.reach.last;
    if (!asked.evenTexture && asked.shutterAngle == 0) return;
    if (row.method != Method::flow || row.kind == FrameKind::held || row.atCut) return;
    const Rational length = step < Rational(0) ? Rational(0) - step : step;
    const Rational open = length * Rational(asked.shutterAngle, 360);
    PlanRow made = row;
    if (row.subject) return; // its parts have moments of their own
    if (row.bridged) {
        if (open == Rational(0)) return;
        made.open = open; // seen in its own gap alone
    } else if (open > Rational(0)) {
        const Rational moment = Rational(row.position.frame) + row.position.phase;
        const Rational half = open / Rational(2);
        made.open = open;
        const std::int64_t opens = (moment - half).floor();
        const std::int64_t closes = -(Rational(0) - moment - half).floor(); // rounded up
        made.first = std::clamp<std::int64_t>(opens, 0, row.first);
        made.last = std::clamp<std::int64_t>(closes, row.last, std::max(row.last, last));
    } else if (asked.evenTexture && row.first == row.last) {
        if (row.last < last && !place.treatment.isCut(row.last)) {
            made.last = keptAround(row.last, place).second;
            made.bridged = made.last > row.last + 1;
        } else {
            made.first = std::max<std::int64_t>(0, row.first - 1);
        }
    } else {
        return;
    }
    stayInScene(made, place.treatment.found.cuts);
    if (made.first == made.last) return; // there is no other frame in this scene
    made.kind = FrameKind::flow;
    if (!made.bridged) lookBeside(made, place);
    row = made;
}

} // namespace yarngap
