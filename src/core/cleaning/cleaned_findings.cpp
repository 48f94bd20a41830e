#include "core/cleaning/cleaned_findings.h"

#include <algorithm>
#include <iterator>

namespace yarngap {

namespace {

using Kind = FrameOrigin::Kind;

std::vector<std::int64_t> cleanedCuts(const std::vector<std::int64_t>& cuts,
                                      const std::vector<FrameOrigin>& origins) {
    std::vector<std::int64_t> out;
    for (const std::int64_t cut : cuts) {
        auto first = std::partition_point(origins.begin(), origins.end(),
                                          [cut](const FrameOrigin& o) { return o.frame <= cut; });
        while (first != origins.end() && first->kind == Kind::passedOver)
            ++first; // it shows the scene before
        const std::int64_t gap = first - origins.begin() - 1;
        if (gap >= 0 && first != origins.end() && (out.empty() || out.back() < gap)) out.push_back(gap);
    }
    return out;
}

/// The part that is passed over in a frame that stays; both where there is none.
CleanupPart partPassedOver(const Cleanup& cleanup, const FrameOrigin& origin) {
    const CleanupDecision* decision = origin.kind == Kind::asItIs ? cleanup.about(origin.frame) : nullptr;
    return decision && decision->kind == CleanupKind::passOver ? decision->part : CleanupPart::both;
}

/// Whether all interpreted frames after `from` up to `to` are repeats.
bool allRepeat(const std::vector<std::int64_t>& repeats, std::int64_t from, std::int64_t to) {
    return to > from && std::upper_bound(repeats.begin(), repeats.end(), to) -
                                std::upper_bound(repeats.begin(), repeats.end(), from) ==
                            to - from;
}

} // namespace

GapFindings cleanedFindings(const GapFindings& found, const Cleanup& cleanup,
                            const std::vector<FrameOrigin>& origins) {
    if (cleanup.empty()) return found;
    GapFindings out;
    out.cuts = cleanedCuts(found.cuts, origins);
    const auto isUntouched = [](const FrameOrigin& o) { return o.kind == Kind::asItIs; };
    const auto isKept = [&cleanup](const FrameOrigin& o) {
        const CleanupDecision* decision = cleanup.about(o.frame);
        return decision && decision->kind == CleanupKind::keep;
    };
    auto shake = found.shakes.begin();
    for (std::size_t n = 0; n < origins.size(); ++n) {
        const FrameOrigin& now = origins[n];
        if (now.kind == Kind::passedOver) out.passedOver.push_back(static_cast<std::int64_t>(n));
        if (const auto part = partPassedOver(cleanup, now); part != CleanupPart::both && n > 0)
            (part == CleanupPart::subject ? out.subjectPassedOver : out.backgroundPassedOver)
                .push_back(static_cast<std::int64_t>(n));
        if (n == 0) continue;
        const FrameOrigin& before = origins[n - 1];
        const bool shown = isUntouched(before) || before.kind == Kind::passedOver;
        if (isUntouched(now) && shown && !isKept(now) && allRepeat(found.repeats, before.frame, now.frame))
            out.repeats.push_back(static_cast<std::int64_t>(n));
        if (before.kind == Kind::putIn || now.kind == Kind::putIn || now.frame != before.frame + 1) continue;
        while (shake != found.shakes.end() && shake->gap < before.frame)
            ++shake;
        if (shake == found.shakes.end() || shake->gap != before.frame) continue;
        out.shakes.push_back(*shake);
        out.shakes.back().gap = static_cast<std::int64_t>(n) - 1;
    }
    return out;
}

namespace {

SourceMark::Made madeOf(FrameOrigin::Kind kind) {
    switch (kind) {
    case Kind::asItIs:
        return SourceMark::Made::no;
    case Kind::passedOver:
        return SourceMark::Made::passedOver;
    case Kind::rebuilt:
        return SourceMark::Made::rebuilt;
    case Kind::restored:
        return SourceMark::Made::restored;
    case Kind::putIn:
        return SourceMark::Made::putIn;
    }
    return SourceMark::Made::no;
}

} // namespace

std::vector<SourceMark> cleanedMarks(const std::vector<SourceMark>& marks,
                                     const std::vector<FrameOrigin>& origins) {
    std::vector<SourceMark> out;
    auto mark = marks.begin();
    std::int64_t expected = 0; // the interpreted frame that comes next if none is taken out
    for (std::size_t n = 0; n < origins.size(); ++n) {
        const FrameOrigin& origin = origins[n];
        const bool isPutIn = origin.kind == Kind::putIn;
        SourceMark here{.made = madeOf(origin.kind)};
        while (!isPutIn && mark != marks.end() && mark->frame < origin.frame)
            ++mark;
        if (!isPutIn && mark != marks.end() && mark->frame == origin.frame) {
            here.repeated = mark->repeated;
            here.leftOut = mark->leftOut;
        }
        here.takenOut = isPutIn ? origin.frame + 1 - expected : origin.frame - expected;
        expected = origin.frame + 1;
        if (here != SourceMark{}) {
            here.frame = static_cast<std::int64_t>(n);
            out.push_back(here);
        }
    }
    return out;
}

} // namespace yarngap
