#include "core/shot/source_axis.h"

#include "core/cleaning/cleaned_findings.h"
#include "core/error.h"
#include "core/inspection/carried_findings.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

namespace yarngap {

namespace {

/// When coded frames begin, in ticks of their own: half a unit of the file's clock, so that fields have whole
/// numbers too, or half a frame where the times of the file are of no use; parts of that, so that frames put
/// in have room between others.
struct CodedTimes {
    Rational tick;
    std::vector<std::int64_t> begins; // of each frame, and the end of the last

    explicit CodedTimes(const MediaIndex& index) {
        if (!takeStamps(index)) {
            tick = Rational(1) / (index.facts.rate.value() * 2);
            begins.clear();
            for (std::int64_t n = 0; n < index.frames(); ++n)
                begins.push_back(2 * n);
        }
        const std::size_t count = begins.size();
        begins.push_back(count > 1 ? 2 * begins[count - 1] - begins[count - 2] : begins[0] + 2);
        refine();
        coarsen();
    }

    /// Field `f` in the order of time: 2n and 2n + 1 are those of coded frame n.
    [[nodiscard]] std::int64_t ofField(std::int64_t f) const {
        const auto n = static_cast<std::size_t>(f / 2);
        return f % 2 == 0 ? begins[n] : begins[n] + (begins[n + 1] - begins[n]) / 2;
    }

  private:
    void refine() {
        constexpr std::int64_t most = std::int64_t{1} << 31; // ticks
        constexpr int parts = 128;                           // more than is ever put in between two frames
        for (int part = 1; part < parts && begins.back() < most; part *= 2) {
            for (std::int64_t& begin : begins)
                begin *= 2;
            tick = tick / 2;
        }
    }

    /// Places between frames are exact fractions of 64 bit; a clock of nanoseconds leaves them no room.
    void coarsen() {
        constexpr std::int64_t enough = std::int64_t{1} << 36; // ticks: two hours at 10 MHz
        while (begins.back() > enough) {
            for (std::int64_t& begin : begins)
                begin /= 2;
            tick = tick * 2;
        }
    }

    bool takeStamps(const MediaIndex& index) {
        tick = index.timeBase / 2;
        std::optional<std::int64_t> first;
        for (const std::int32_t packet : index.displayPacket) {
            const auto& stamp = index.packets[static_cast<std::size_t>(packet)].pts;
            if (!stamp) return false;
            if (!first) first = *stamp;
            // A damaged file may hold any number.
            constexpr Int128 most = Int128{1} << 60;
            const Int128 begin = 2 * (Int128{*stamp} - *first);
            if (begin > most || (!begins.empty() && begin <= begins.back())) return false;
            begins.push_back(static_cast<std::int64_t>(begin));
        }
        return true;
    }
};

/// The field shown first, in the order of time.
std::int64_t firstField(const FrameRecipe& recipe, bool topFirst) {
    switch (recipe.kind) {
    case FrameRecipe::Kind::coded:
        return 2 * recipe.top;
    case FrameRecipe::Kind::field:
        return 2 * recipe.top + (recipe.second ? 1 : 0);
    case FrameRecipe::Kind::woven:
        break;
    }
    return std::min(2 * recipe.top + (topFirst ? 0 : 1), 2 * recipe.bottom + (topFirst ? 1 : 0));
}

bool isTopFirst(const MediaIndex& index, const Interpretation& interpretation) {
    if (interpretation.topFirst) return *interpretation.topFirst;
    if (!interpretation.pulldown.empty()) return interpretation.pulldown.front().topFirst;
    return index.facts.scan != Scan::bottomFieldFirst;
}

bool isEven(const Interpretation& interpretation) {
    return interpretation.evenTimes && interpretation.fields == FieldUse::asCoded;
}

/// The rate of `facts` without the part that the editor set. It may be beyond what a Rate can hold.
Rational ownPace(const MediaIndex& index, const Interpretation& interpretation, const MediaFacts& facts) {
    if (!interpretation.rate) return facts.rate.value();
    const Rate& own = isEven(interpretation) ? evenTimes(index).rate : index.facts.rate;
    return facts.rate.value() / interpretation.rate->value() * own.value();
}

} // namespace

SourceAxis::SourceAxis(const MediaIndex& index, const Interpretation& interpretation, Cleanup cleanup)
    : interpretation_(interpretation)
    , cleanup_(std::move(cleanup)) {
    if (index.frames() == 0) throw Error(index.facts.path.string() + " has no frames. Choose another file.");
    facts_ = interpretedFacts(index, interpretation);
    recipes_ = recipesFor(index, interpretation);
    framesPerSecond_ = ownPace(index, interpretation, facts_);
    const CodedTimes coded(index);
    tick_ = coded.tick;
    const double slot = 1 / (framesPerSecond_ * tick_).toDouble();
    const auto beginOfSlot = [slot](std::int64_t n) { return std::llround(static_cast<double>(n) * slot); };
    const bool even = isEven(interpretation);
    const bool topFirst = isTopFirst(index, interpretation);
    std::vector<std::int64_t> begins;
    begins.reserve(recipes_.size() + 1);
    const auto add = [&begins](std::int64_t begin) {
        // Two frames of one moment cannot be told apart; a tick lies between them.
        begins.push_back(begins.empty() ? begin : std::max(begin, begins.back() + 1));
    };
    for (std::size_t n = 0; n < recipes_.size(); ++n)
        add(even ? beginOfSlot(static_cast<std::int64_t>(n))
                 : coded.ofField(firstField(recipes_[n], topFirst)));
    add(even ? beginOfSlot(interpretedFrames()) : coded.begins.back());
    clean(begins);
    marks_ = cleanedMarks(sourceMarks(index, interpretation), origins_);
}

void SourceAxis::clean(const std::vector<std::int64_t>& interpretedBegins) {
    origins_ = cleanedFrames(cleanup_, interpretedFrames());
    facts_.frames = static_cast<std::int64_t>(origins_.size());
    isRecounted_ = std::any_of(
        cleanup_.decisions.begin(), cleanup_.decisions.end(), [](const CleanupDecision& decision) {
            return decision.kind == CleanupKind::takeOut || decision.kind == CleanupKind::putIn;
        });
    begins_.reserve(origins_.size() + 1);
    for (const FrameOrigin& origin : origins_) {
        const auto n = static_cast<std::size_t>(origin.frame);
        std::int64_t begin = interpretedBegins[n];
        if (origin.kind == FrameOrigin::Kind::putIn)
            begin += (Rational(interpretedBegins[n + 1] - begin) * origin.phase).floor();
        begins_.push_back(begins_.empty() ? begin : std::max(begin, begins_.back() + 1));
    }
    begins_.push_back(std::max(interpretedBegins.back(), begins_.back() + 1));
}

std::optional<std::int64_t> SourceAxis::frameOf(std::int64_t frame) const {
    const auto at = std::partition_point(origins_.begin(), origins_.end(),
                                         [frame](const FrameOrigin& o) { return o.frame < frame; });
    if (at == origins_.end() || at->frame != frame || at->kind == FrameOrigin::Kind::putIn)
        return std::nullopt;
    return at - origins_.begin();
}

Rational SourceAxis::ticksOf(const Rational& position) const {
    const std::int64_t last = frames() - 1;
    const auto n = static_cast<std::size_t>(std::clamp<std::int64_t>(position.floor(), 0, last));
    return Rational(begins_[n]) +
           (position - Rational(static_cast<std::int64_t>(n))) * Rational(begins_[n + 1] - begins_[n]);
}

Rational SourceAxis::positionAtTicks(const Rational& ticks) const {
    // The last frame that begins at `ticks` or before; the first where none does.
    const auto behind = std::upper_bound(begins_.begin() + 1, begins_.end() - 1, ticks.floor());
    const std::int64_t n = behind - begins_.begin() - 1;
    const auto i = static_cast<std::size_t>(n);
    return Rational(n) + (ticks - Rational(begins_[i])) / Rational(begins_[i + 1] - begins_[i]);
}

Rational SourceAxis::momentOf(const Rational& position) const {
    return ticksOf(position) * tick_;
}

Rational SourceAxis::positionAt(const Rational& moment) const {
    return positionAtTicks(moment / tick_);
}

Rational SourceAxis::carried(const Rational& position, const SourceAxis& other) const {
    return other.positionAtTicks(ticksOf(position));
}

std::int64_t SourceAxis::carriedFrame(std::int64_t frame, const SourceAxis& other) const {
    return std::clamp<std::int64_t>(carried(frame, other).round(), 0, other.frames());
}

GapFindings SourceAxis::interpretedFindings(const ShotFindings& found) const {
    return carriedFindings(found, recipes_, interpretation_);
}

GapFindings SourceAxis::findings(const ShotFindings& found) const {
    return cleanedFindings(interpretedFindings(found), cleanup_, origins_);
}

Cleanup carriedCleanup(const Cleanup& cleanup, const SourceAxis& before, const SourceAxis& after) {
    const bool turned = before.interpretation().rotation != after.interpretation().rotation;
    std::vector<CleanupDecision> carried;
    carried.reserve(cleanup.decisions.size());
    for (CleanupDecision decision : cleanup.decisions) {
        if (decision.frame >= before.frames()) continue;
        decision.frame = std::min(before.carriedFrame(decision.frame, after), after.frames() - 1);
        if (turned && decision.kind == CleanupKind::restore) {
            decision.kind = CleanupKind::rebuild;
            decision.places.clear();
        }
        carried.push_back(std::move(decision));
    }
    std::ranges::reverse(carried); // of two that meet the later one in the list is kept
    return withDecisions({}, std::move(carried));
}

} // namespace yarngap
