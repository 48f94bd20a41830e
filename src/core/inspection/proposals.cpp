#include "core/inspection/proposals.h"

namespace yarngap {

namespace {

std::string claimOf(const MediaFacts& facts) {
    switch (facts.scan) {
    case Scan::unknown:
        return "The file does not state its scan; ";
    case Scan::progressive:
        return "The file says progressive, but ";
    case Scan::topFieldFirst:
        return "The file says top field first; ";
    case Scan::bottomFieldFirst:
        return "The file says bottom field first; ";
    }
    return {};
}

std::string counted(std::int64_t n, const char* one, const char* more) {
    return std::to_string(n) + ' ' + (n == 1 ? one : more);
}

std::string orderOf(bool topFirst) {
    return topFirst ? "top field first" : "bottom field first";
}

void proposeFields(const MediaFacts& facts, const ShotFindings& findings, const Interpretation& present,
                   std::vector<Proposal>& out) {
    if (!findings.decided() || present.fields != FieldUse::asCoded) return;
    const Rational rate = present.rate.value_or(facts.rate).value();
    switch (findings.kind()) {
    case CadenceKind::pulldown32:
    case CadenceKind::pulldown2332:
    case CadenceKind::shifted22: {
        Proposal p;
        p.then = present;
        p.then.fields = FieldUse::removePulldown;
        p.then.topFirst = findings.topFirst();
        p.then.pulldown = pulldownRuns(findings.cadence);
        const bool shifted = findings.kind() == CadenceKind::shifted22;
        const std::string film = Rate(shifted ? rate : rate * Rational(4, 5)).display();
        p.sentence = claimOf(facts) + "the pictures are film at " + film + " fps in " +
                     std::string(name(findings.kind())) + ", " + orderOf(findings.topFirst());
        if (const auto breaks = findings.breaks(); !breaks.empty())
            p.sentence += ", with " + counted(static_cast<std::int64_t>(breaks.size()), "break", "breaks");
        p.sentence += ". In-betweens need the film frames.";
        p.action = shifted ? "Join the fields again" : "Remove pulldown";
        out.push_back(std::move(p));
        break;
    }
    case CadenceKind::interlaced: {
        const bool known = facts.scan == Scan::topFieldFirst || facts.scan == Scan::bottomFieldFirst;
        const bool agrees = known && (facts.scan == Scan::topFieldFirst) == findings.topFirst();
        Proposal p;
        p.then = present;
        p.then.topFirst = findings.topFirst();
        p.sentence =
            agrees
                ? "Each field is a moment of its own, " + orderOf(findings.topFirst()) + ", as the file says."
                : claimOf(facts) + "the pictures are interlaced, " + orderOf(findings.topFirst()) + ".";
        p.then.fields = FieldUse::toFields;
        p.action = "Deinterlace to " + Rate(rate * Rational(2)).display() + " fps";
        out.push_back(p);
        p.sentence.clear();
        p.then.fields = FieldUse::toFrames;
        p.action = "Deinterlace to " + Rate(rate).display() + " fps";
        out.push_back(std::move(p));
        break;
    }
    case CadenceKind::progressive:
        if (facts.scan == Scan::topFieldFirst || facts.scan == Scan::bottomFieldFirst)
            out.push_back({claimOf(facts) +
                               "both fields of each frame are of one moment, so it is taken as progressive.",
                           {},
                           present});
        break;
    }
}

void proposeEvenTimes(const MediaIndex& index, const Interpretation& present, std::vector<Proposal>& out) {
    if (index.facts.constantRate || present.evenTimes || present.fields != FieldUse::asCoded || present.rate)
        return;
    const EvenTimes even = evenTimes(index);
    if (!even.fits) {
        out.push_back({"The frames come at distances that fit no rate. Set the rate by hand.", {}, present});
        return;
    }
    Proposal p;
    p.then = present;
    p.then.evenTimes = true;
    p.sentence = "The frames come at varying distances. Even ones at " + even.rate.display() + " fps need " +
                 counted(even.shownTwice, "repeat", "repeats") + " and leave " +
                 (even.leftOut == 0 ? "no frame" : counted(even.leftOut, "frame", "frames")) + " out.";
    p.action = "Make even, " + even.rate.display() + " fps";
    out.push_back(std::move(p));
}

} // namespace

std::vector<PulldownRun> pulldownRuns(const std::vector<CadenceRun>& cadence) {
    std::vector<PulldownRun> runs;
    for (const CadenceRun& run : cadence) {
        PulldownRun::Kind kind = PulldownRun::Kind::whole;
        switch (run.kind) {
        case CadenceKind::progressive:
            break;
        case CadenceKind::interlaced:
            kind = PulldownRun::Kind::fields;
            break;
        case CadenceKind::pulldown32:
            kind = PulldownRun::Kind::pulldown32;
            break;
        case CadenceKind::pulldown2332:
            kind = PulldownRun::Kind::pulldown2332;
            break;
        case CadenceKind::shifted22:
            kind = PulldownRun::Kind::shifted22;
            break;
        }
        runs.push_back({run.first, run.last, kind, run.topFirst, run.phase});
    }
    return runs;
}

Interpretation measuredInterpretation(const MediaIndex& index, const ShotFindings& findings,
                                      const Interpretation& present) {
    Interpretation result = present;
    // Each proposal acted upon is not made again.
    while (true) {
        bool changed = false;
        for (const Proposal& proposal : proposalsFor(index, findings, result))
            if (!proposal.action.empty()) {
                result = proposal.then;
                changed = true;
                break;
            }
        if (!changed) return result;
    }
}

std::vector<Proposal> proposalsFor(const MediaIndex& index, const ShotFindings& findings,
                                   const Interpretation& present) {
    std::vector<Proposal> out;
    const MediaFacts& facts = index.facts;
    proposeFields(facts, findings, present, out);
    proposeEvenTimes(index, present, out);
    if (facts.rotation % 90 == 0 && facts.rotation != 0 && present.rotation == 0) {
        Proposal p;
        p.then = present;
        p.then.rotation = facts.rotation;
        p.sentence = "The file asks to be shown turned by " + std::to_string(facts.rotation) + "°.";
        p.action = "Turn the picture";
        out.push_back(std::move(p));
    }
    if (!findings.undecodable.empty())
        out.push_back({counted(static_cast<std::int64_t>(findings.undecodable.size()), "frame", "frames") +
                           " cannot be decoded, the first being " +
                           std::to_string(findings.undecodable.front()) +
                           ". The nearest frame stands in. Copy the file again, or trim the shot.",
                       {},
                       present});
    const Repeats& repeats = findings.repeats;
    if (repeats.heldFor > 1)
        out.push_back({"Drawn on " +
                           std::string(repeats.heldFor == 2   ? "twos"
                                       : repeats.heldFor == 3 ? "threes"
                                                              : "fours") +
                           ": each picture is held for " + std::to_string(repeats.heldFor) +
                           " frames, so that in-betweens change nothing in most gaps.",
                       {},
                       present});
    else if (!repeats.frames.empty())
        out.push_back(
            {counted(static_cast<std::int64_t>(repeats.frames.size()), "frame repeats", "frames repeat") +
                 " the one before, the first at " + std::to_string(repeats.frames.front()) + ".",
             {},
             present});
    if (findings.otherSizes > 0)
        out.push_back({counted(findings.otherSizes, "frame is", "frames are") +
                           " of another size in the file, the first at " +
                           std::to_string(findings.firstOtherSize) +
                           ", and scaled to the size of frame 0. Trim to one size.",
                       {},
                       present});
    if (findings.heldPart.heldFor > 1)
        out.push_back({"A part of the picture is held for " + std::to_string(findings.heldPart.heldFor) +
                           " frames at a time while the rest moves in each. In-betweens stop and go there.",
                       {},
                       present});
    if (!findings.drops.empty() && !present.evenTimes)
        out.push_back({counted(static_cast<std::int64_t>(findings.drops.size()), "step goes", "steps go") +
                           " further than the steps around, as if frames were lost; the first from frame " +
                           std::to_string(findings.drops.front().after) + " to the next.",
                       {},
                       present});
    if (!findings.cuts.empty())
        out.push_back({counted(static_cast<std::int64_t>(findings.cuts.size()), "cut", "cuts") +
                           ", the first at frame " + std::to_string(findings.cuts.front()) +
                           ". Nothing is made across a cut.",
                       {},
                       present});
    return out;
}

} // namespace yarngap
