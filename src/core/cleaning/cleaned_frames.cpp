#include "core/cleaning/cleaned_frames.h"

#include <algorithm>

namespace yarngap {

namespace {

constexpr std::int64_t reach = 24; // frames; further away hardly anything is the same

bool isCut(const std::vector<std::int64_t>& cuts, std::int64_t gap) {
    return std::binary_search(cuts.begin(), cuts.end(), gap);
}

CleanupKind kindOf(const Cleanup& cleanup, std::int64_t frame) {
    const CleanupDecision* decision = cleanup.about(frame);
    return decision ? decision->kind : CleanupKind::keep;
}

/// The nearest frame from `from` on, in steps of `step`, that can be made from; −1 for none.
std::int64_t nearestKept(const Cleanup& cleanup, std::int64_t from, int step, std::int64_t frames,
                         const std::vector<std::int64_t>& cuts, bool restoredToo) {
    for (std::int64_t n = from; n >= 0 && n < frames && std::abs(n - from) < reach; n += step) {
        const CleanupDecision* decision = cleanup.about(n);
        if (!decision || isMadeFrom(*decision)) return n;
        if (restoredToo && decision->kind == CleanupKind::restore) return n;
        if (isCut(cuts, step > 0 ? n : n - 1)) return -1;
    }
    return -1;
}

std::int64_t nearestKept(const Cleanup& cleanup, std::int64_t from, int step, std::int64_t frames,
                         const std::vector<std::int64_t>& cuts) {
    const std::int64_t whole = nearestKept(cleanup, from, step, frames, cuts, false);
    return whole >= 0 ? whole : nearestKept(cleanup, from, step, frames, cuts, true);
}

void appendPutIn(std::vector<FrameOrigin>& out, const CleanupDecision& decision) {
    for (int k = 0; k < decision.count; ++k) {
        FrameOrigin origin{FrameOrigin::Kind::putIn, decision.frame};
        origin.phase = decision.phases.empty() ? Rational(k + 1, decision.count + 1)
                                               : decision.phases.at(static_cast<std::size_t>(k));
        out.push_back(origin);
    }
}

FrameOrigin originOf(const CleanupDecision& decision, bool isFirst) {
    FrameOrigin origin{FrameOrigin::Kind::asItIs, decision.frame};
    switch (decision.kind) {
    case CleanupKind::passOver:
        // A part alone is passed over where the frame is put together; its picture stays.
        if (!isFirst && decision.part == CleanupPart::both)
            origin.kind = FrameOrigin::Kind::passedOver; // else there is nothing it could repeat
        break;
    case CleanupKind::rebuild:
        origin.kind = FrameOrigin::Kind::rebuilt;
        if (!decision.phases.empty()) {
            origin.phase = decision.phases.front();
            origin.hasPhase = true;
        }
        break;
    case CleanupKind::restore:
        if (!decision.places.empty()) origin.kind = FrameOrigin::Kind::restored;
        break;
    case CleanupKind::keep:
    case CleanupKind::takeOut:
    case CleanupKind::putIn:
        break;
    }
    return origin;
}

/// Why a decision has no effect; empty where it has one.
std::string idleReason(const Cleanup& cleanup, const CleanupDecision& d, std::int64_t frames,
                       const std::vector<std::int64_t>& cuts, bool hasMatte) {
    if (d.frame >= frames) return "lies beyond the end of the shot.";
    if (d.part != CleanupPart::both && !hasMatte)
        return "is about a part of the picture, and the shot has no matte.";
    switch (d.kind) {
    case CleanupKind::keep:
    case CleanupKind::takeOut:
        return {};
    case CleanupKind::passOver:
        for (std::int64_t n = d.frame - 1; n >= 0; --n)
            if (kindOf(cleanup, n) != CleanupKind::takeOut) return {};
        return "begins the shot, so there is no frame before it to repeat.";
    case CleanupKind::restore:
        return d.places.empty() ? "names no place to restore." : "";
    case CleanupKind::rebuild: {
        const KeptAround around = keptAround(cleanup, d.frame, frames, cuts);
        return around.before < 0 && around.after < 0 ? "has no kept frame near it to be made from." : "";
    }
    case CleanupKind::putIn: {
        if (isCut(cuts, d.frame)) return "would put frames in across a cut.";
        const KeptAround around = keptBeside(cleanup, d.frame, frames, cuts);
        return around.before < 0 || around.after < 0
                   ? "would put frames in where there are not kept frames on both sides."
                   : "";
    }
    }
    return {};
}

} // namespace

bool isMadeFrom(const CleanupDecision& decision) {
    if (decision.kind == CleanupKind::keep) return true;
    return decision.kind == CleanupKind::restore &&
           std::ranges::all_of(decision.places, [](const DamagedPlace& place) {
               return std::min(place.width, place.height) <= easilyFilled;
           });
}

std::vector<FrameOrigin> cleanedFrames(const Cleanup& cleanup, std::int64_t frames) {
    std::vector<FrameOrigin> out;
    out.reserve(static_cast<std::size_t>(frames));
    auto next = cleanup.decisions.begin();
    for (std::int64_t n = 0; n < frames; ++n) {
        FrameOrigin origin{FrameOrigin::Kind::asItIs, n};
        bool isOut = false;
        if (next != cleanup.decisions.end() && next->frame == n && next->kind != CleanupKind::putIn) {
            isOut = next->kind == CleanupKind::takeOut;
            origin = originOf(*next, out.empty());
            ++next;
        }
        if (!isOut) out.push_back(origin);
        if (next != cleanup.decisions.end() && next->frame == n) {
            if (n + 1 < frames) appendPutIn(out, *next);
            ++next;
        }
    }
    if (out.empty()) return cleanedFrames({}, frames);
    return out;
}

std::vector<IdleDecision> idleDecisions(const Cleanup& cleanup, std::int64_t frames,
                                        const std::vector<std::int64_t>& cuts, bool hasMatte) {
    std::vector<IdleDecision> idle;
    for (const CleanupDecision& decision : cleanup.decisions)
        if (const std::string why = idleReason(cleanup, decision, frames, cuts, hasMatte); !why.empty())
            idle.push_back({decision.frame, decision.kind,
                            "The decision \"" + std::string(name(decision.kind)) + "\" about source frame " +
                                std::to_string(decision.frame) + " has no effect: it " + why});
    return idle;
}

KeptAround keptAround(const Cleanup& cleanup, std::int64_t frame, std::int64_t frames,
                      const std::vector<std::int64_t>& cuts) {
    return {isCut(cuts, frame - 1) ? -1 : nearestKept(cleanup, frame - 1, -1, frames, cuts),
            isCut(cuts, frame) ? -1 : nearestKept(cleanup, frame + 1, 1, frames, cuts)};
}

KeptAround keptBeside(const Cleanup& cleanup, std::int64_t gap, std::int64_t frames,
                      const std::vector<std::int64_t>& cuts) {
    if (isCut(cuts, gap)) return {};
    return {nearestKept(cleanup, gap, -1, frames, cuts), nearestKept(cleanup, gap + 1, 1, frames, cuts)};
}

} // namespace yarngap
