#include "core/cleaning/cleanup.h"

#include "core/choice_names.h"
#include "core/error.h"

#include <algorithm>
#include <array>
#include <iterator>
#include <utility>

namespace yarngap {

namespace {

constexpr ChoiceNames<CleanupKind, 6> kinds{"decision about a source frame",
                                            {{{CleanupKind::keep, "keep"},
                                              {CleanupKind::passOver, "pass-over"},
                                              {CleanupKind::takeOut, "take-out"},
                                              {CleanupKind::rebuild, "rebuild"},
                                              {CleanupKind::restore, "restore"},
                                              {CleanupKind::putIn, "put-in"}}}};

constexpr ChoiceNames<CleanupPart, 3> parts{"part of a picture",
                                            {{{CleanupPart::both, "both"},
                                              {CleanupPart::subject, "subject"},
                                              {CleanupPart::background, "background"}}}};

using Place = std::pair<std::int64_t, bool>;

/// Where a decision belongs among others.
Place placeOf(const CleanupDecision& decision) {
    return {decision.frame, decision.kind == CleanupKind::putIn};
}

bool isBefore(const CleanupDecision& a, const CleanupDecision& b) {
    return placeOf(a) < placeOf(b);
}

const CleanupDecision* find(const std::vector<CleanupDecision>& decisions, const Place& place) {
    const auto at =
        std::lower_bound(decisions.begin(), decisions.end(), place,
                         [](const CleanupDecision& d, const Place& wanted) { return placeOf(d) < wanted; });
    return at != decisions.end() && placeOf(*at) == place ? &*at : nullptr;
}

Error wrong(const CleanupDecision& decision, const std::string& what) {
    return Error("The decision about source frame " + std::to_string(decision.frame) + " " + what);
}

void validatePhases(const CleanupDecision& d) {
    const std::size_t expected = d.kind == CleanupKind::rebuild ? 1
                                 : d.kind == CleanupKind::putIn ? static_cast<std::size_t>(d.count)
                                                                : 0;
    if (!d.phases.empty() && d.phases.size() != expected)
        throw wrong(d, "has " + std::to_string(d.phases.size()) + " phases where it takes " +
                           std::to_string(expected) + ". Leave them out for even ones.");
    for (std::size_t i = 0; i < d.phases.size(); ++i) {
        if (d.phases[i] < Rational(0) || d.phases[i] > Rational(1))
            throw wrong(d, "has phase " + d.phases[i].toString() + ". It should be from 0 to 1.");
        if (i > 0 && d.phases[i] <= d.phases[i - 1])
            throw wrong(d, "has phases that do not rise. Put them in order.");
    }
}

void validateOne(const CleanupDecision& d) {
    if (d.frame < 0) throw wrong(d, "names no frame. Frames are counted from 0.");
    if (d.count < 1 || d.count > CleanupDecision::mostPutIn)
        throw wrong(d, "puts in " + std::to_string(d.count) + " frames. It should be from 1 to " +
                           std::to_string(CleanupDecision::mostPutIn) + ".");
    if (!(d.certainty >= 0 && d.certainty <= 1)) throw wrong(d, "has a certainty that is not from 0 to 1.");
    if (d.places.size() > CleanupDecision::mostPlaces)
        throw wrong(d, "names more than " + std::to_string(CleanupDecision::mostPlaces) +
                           " places. Rebuild the frame instead.");
    if (d.part != CleanupPart::both && d.kind != CleanupKind::passOver)
        throw wrong(d, "is about a part of the picture. Only frames that are passed over can be.");
    for (const DamagedPlace& place : d.places)
        if (place.x < 0 || place.y < 0 || place.width < 1 || place.height < 1)
            throw wrong(d, "names a place without size or off the picture.");
    validatePhases(d);
}

} // namespace

std::string_view name(CleanupKind kind) {
    return kinds.nameOf(kind);
}

CleanupKind parseCleanupKind(std::string_view text) {
    return kinds.parse(text);
}

std::string_view name(CleanupPart part) {
    return parts.nameOf(part);
}

CleanupPart parseCleanupPart(std::string_view text) {
    return parts.parse(text);
}

std::string textOf(const std::vector<DamagedPlace>& places) {
    std::string text;
    for (const DamagedPlace& p : places)
        for (const int number : {p.x, p.y, p.width, p.height})
            text += std::to_string(number) + ',';
    return text;
}

const CleanupDecision* Cleanup::about(std::int64_t frame) const {
    return find(decisions, {frame, false});
}

const CleanupDecision* Cleanup::behind(std::int64_t frame) const {
    return find(decisions, {frame, true});
}

std::int64_t Cleanup::count(CleanupKind kind) const {
    return std::count_if(decisions.begin(), decisions.end(),
                         [kind](const CleanupDecision& d) { return d.kind == kind; });
}

Cleanup withDecisions(Cleanup cleanup, std::vector<CleanupDecision> decisions) {
    std::stable_sort(decisions.begin(), decisions.end(), isBefore);
    Cleanup out;
    out.decisions.reserve(cleanup.decisions.size() + decisions.size());
    // Of one place the later decision wins; std::merge puts those of the second list behind.
    std::vector<CleanupDecision> all;
    all.reserve(cleanup.decisions.size() + decisions.size());
    std::merge(std::make_move_iterator(cleanup.decisions.begin()),
               std::make_move_iterator(cleanup.decisions.end()), std::make_move_iterator(decisions.begin()),
               std::make_move_iterator(decisions.end()), std::back_inserter(all), isBefore);
    for (CleanupDecision& decision : all) {
        if (!out.decisions.empty() && placeOf(out.decisions.back()) == placeOf(decision))
            out.decisions.back() = std::move(decision);
        else
            out.decisions.push_back(std::move(decision));
    }
    return out;
}

Cleanup withDecision(Cleanup cleanup, CleanupDecision decision) {
    return withDecisions(std::move(cleanup), {std::move(decision)});
}

Cleanup withoutDecisions(Cleanup cleanup, std::int64_t first, std::int64_t last) {
    std::erase_if(cleanup.decisions,
                  [&](const CleanupDecision& d) { return d.frame >= first && d.frame <= last; });
    return cleanup;
}

void validate(const Cleanup& cleanup) {
    if (cleanup.decisions.size() > Cleanup::mostDecisions)
        throw Error("There are more than " + std::to_string(Cleanup::mostDecisions) +
                    " decisions about source frames. Split the shot.");
    for (std::size_t i = 0; i < cleanup.decisions.size(); ++i) {
        const CleanupDecision& decision = cleanup.decisions[i];
        validateOne(decision);
        if (i > 0 && !isBefore(cleanup.decisions[i - 1], decision))
            throw wrong(decision, placeOf(cleanup.decisions[i - 1]) == placeOf(decision)
                                      ? "is there twice. Leave one of them out."
                                      : "is out of order. Sort the decisions by frame.");
    }
}

void validate(const Cleanup& cleanup, std::int64_t frames) {
    validate(cleanup);
    if (!cleanup.empty() && cleanup.decisions.back().frame >= frames)
        throw wrong(cleanup.decisions.back(), "lies beyond the end of the shot, which has " +
                                                  std::to_string(frames) +
                                                  " frames. Scan the shot again, or take it out.");
    if (frames > 0 && cleanup.count(CleanupKind::takeOut) >= frames)
        throw Error("All frames would be taken out. Keep at least one.");
}

std::string summary(const Cleanup& cleanup) {
    constexpr std::array<std::pair<CleanupKind, const char*>, 6> done{
        {{CleanupKind::passOver, " passed over"},
         {CleanupKind::takeOut, " taken out"},
         {CleanupKind::rebuild, " rebuilt"},
         {CleanupKind::restore, " restored"},
         {CleanupKind::putIn, " put in"},
         {CleanupKind::keep, " kept"}}};
    std::string text;
    for (const auto& [kind, words] : done) {
        std::int64_t count = 0;
        for (const CleanupDecision& d : cleanup.decisions)
            if (d.kind == kind) count += kind == CleanupKind::putIn ? d.count : 1;
        if (count > 0) text += (text.empty() ? "" : ", ") + std::to_string(count) + words;
    }
    return text;
}

} // namespace yarngap
