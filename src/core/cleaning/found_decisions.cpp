#include "core/cleaning/found_decisions.h"

#include "core/choice_names.h"

#include <algorithm>
#include <optional>
#include <unordered_map>
#include <utility>

namespace yarngap {

namespace {

constexpr ChoiceNames<LookAt, 3> lookAts{
    "choice of what is looked at",
    {{{LookAt::picture, "picture"}, {LookAt::figure, "figure"}, {LookAt::subject, "subject"}}}};

/// Interpreted frames by the coded frame that each of them is.
class FramesOfCoded {
  public:
    explicit FramesOfCoded(const std::vector<FrameRecipe>& recipes)
        : recipes_(recipes) {
        for (std::size_t n = 0; n < recipes.size(); ++n)
            if (recipes[n].kind == FrameRecipe::Kind::coded)
                frames_.emplace(recipes[n].top, static_cast<std::int64_t>(n)); // of two the first
    }
    [[nodiscard]] std::optional<std::int64_t> operator()(std::int64_t coded) const {
        const auto at = frames_.find(coded);
        return at == frames_.end() ? std::nullopt : std::optional(at->second);
    }
    /// Whether the coded frame after this one follows it in the interpreted frames as well.
    [[nodiscard]] bool goesOn(std::int64_t frame) const {
        const auto n = static_cast<std::size_t>(frame);
        return n + 1 < recipes_.size() && recipes_[n + 1].kind == FrameRecipe::Kind::coded &&
               recipes_[n + 1].top == recipes_[n].top + 1;
    }

  private:
    const std::vector<FrameRecipe>& recipes_;
    std::unordered_map<std::int64_t, std::int64_t> frames_;
};

/// A copy made by the interpretation stands for the same coded frame; of two decisions about one frame the
/// graver is left: a picture that is bad repeats nothing.
void keepGravest(std::vector<CleanupDecision>& decisions) {
    const auto gravity = [](CleanupKind kind) {
        return kind == CleanupKind::rebuild ? 3 : kind == CleanupKind::passOver ? 2 : 1;
    };
    std::stable_sort(decisions.begin(), decisions.end(),
                     [&](const CleanupDecision& a, const CleanupDecision& b) {
                         const bool aPuts = a.kind == CleanupKind::putIn;
                         const bool bPuts = b.kind == CleanupKind::putIn;
                         if (std::pair(a.frame, aPuts) != std::pair(b.frame, bPuts))
                             return std::pair(a.frame, aPuts) < std::pair(b.frame, bPuts);
                         return gravity(a.kind) > gravity(b.kind);
                     });
    const auto same = [](const CleanupDecision& a, const CleanupDecision& b) {
        return a.frame == b.frame && (a.kind == CleanupKind::putIn) == (b.kind == CleanupKind::putIn);
    };
    decisions.erase(std::unique(decisions.begin(), decisions.end(), same), decisions.end());
}

} // namespace

std::string_view name(LookAt value) {
    return lookAts.nameOf(value);
}

LookAt parseLookAt(std::string_view text) {
    return lookAts.parse(text);
}

std::vector<CleanupDecision> foundDecisions(const ShotFindings& findings,
                                            const std::vector<FrameRecipe>& recipes,
                                            const FoundOptions& options) {
    const FramesOfCoded frameOf(recipes);
    std::vector<CleanupDecision> decisions;
    const auto decide = [&](std::int64_t coded, CleanupKind kind, double certainty) -> CleanupDecision* {
        const auto frame = frameOf(coded);
        if (certainty < options.certainty || !frame) return nullptr;
        decisions.push_back({.frame = *frame, .kind = kind, .certainty = certainty});
        return &decisions.back();
    };
    const CleanFindings& clean = findings.clean;
    const std::span<const FoundFrame> holds = options.lookAt == LookAt::picture  ? clean.repeats
                                              : options.lookAt == LookAt::figure ? clean.figureHolds
                                                                                 : options.subjectHolds;
    for (const FoundFrame& repeat : holds) {
        auto* decision =
            repeat.frame > 0 ? decide(repeat.frame, CleanupKind::passOver, repeat.certainty) : nullptr;
        if (decision && options.lookAt == LookAt::subject) decision->part = CleanupPart::subject;
    }
    for (const std::int64_t frame : findings.undecodable)
        decide(frame, CleanupKind::rebuild, 1);
    for (const FoundDamage& damage : clean.damage) {
        const bool whole = damage.places.empty();
        if (auto* decision =
                decide(damage.frame, whole ? CleanupKind::rebuild : CleanupKind::restore, damage.certainty))
            decision->places = damage.places;
    }
    for (const FoundLoss& loss : clean.losses) {
        const auto frame = frameOf(loss.after);
        if (!frame || !frameOf.goesOn(*frame)) continue;
        if (auto* decision = decide(loss.after, CleanupKind::putIn, loss.certainty))
            decision->count = std::clamp(loss.missing, 1, CleanupDecision::mostPutIn);
    }
    keepGravest(decisions);
    return decisions;
}

} // namespace yarngap
