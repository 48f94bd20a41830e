#include "cli/reader.h"

#include "core/cleaning/found_decisions.h"
#include "core/inspection/proposals.h"
#include "core/project/cleanup_file.h"

#include <algorithm>
#include <iostream>

namespace yarngap::cli {

std::shared_ptr<const MediaIndex> Reader::open(const std::filesystem::path& media) const {
    TerminalProgress line;
    return known_->index(
        media,
        [&](double share) { line.show("Indexing " + std::to_string(static_cast<int>(share * 100)) + " %"); },
        stop_);
}

std::shared_ptr<const ShotFindings> Reader::inspect(const std::shared_ptr<const MediaIndex>& index,
                                                    LookedFor what) const {
    TerminalProgress line;
    return known_->findings(
        index,
        [&](double share) { line.show("Measuring " + std::to_string(static_cast<int>(share * 100)) + " %"); },
        stop_, what);
}

namespace {

/// The cleanup that the arguments ask for; absent where they ask for none.
std::optional<Cleanup> askedCleanup(const ShotArguments& arguments, const SourceAxis& interpreted,
                                    const std::shared_ptr<const MediaIndex>& index, const Reader& reader) {
    const ShotArguments::Cleaning asked = arguments.cleaning();
    if (asked.certainty)
        return Cleanup{foundDecisions(*reader.inspect(index, LookedFor::all), interpreted.recipes(),
                                      {.certainty = *asked.certainty})};
    if (!asked.file) return std::nullopt;
    try {
        Cleanup cleanup = loadCleanup(*asked.file);
        validate(cleanup, interpreted.interpretedFrames());
        return cleanup;
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
}

bool makesFrames(const Cleanup& cleanup) {
    return cleanup.count(CleanupKind::rebuild) + cleanup.count(CleanupKind::restore) +
               cleanup.count(CleanupKind::putIn) >
           0;
}

} // namespace

Footage opened(Shot& shot, const ShotArguments& arguments, std::size_t cacheBytes, const Reader& reader,
               const std::shared_ptr<VectorStore>& vectors, const std::shared_ptr<FrameFolder>& finished,
               LookedFor what) {
    const auto index = reader.open(shot.media);
    if (arguments.cleaning().certainty) what = LookedFor::all; // by askedCleanup()
    if (arguments.asMeasured)
        shot.interpretation =
            measuredInterpretation(*index, *reader.inspect(index, what), shot.interpretation);
    arguments.applyMethods(shot);
    validate(shot.interpretation, *index);
    const SourceAxis interpreted(*index, shot.interpretation);
    if (auto cleanup = askedCleanup(arguments, interpreted, index, reader)) {
        const SourceAxis before(*index, shot.interpretation, shot.cleanup);
        shot.carryOver(before, SourceAxis(*index, shot.interpretation, *std::move(cleanup)));
    }
    CleaningMeans means{.vectors = vectors, .finished = finished};
    if (!shot.cleanup.empty()) {
        const SourceAxis cleaned(*index, shot.interpretation, shot.cleanup);
        if (const auto given = arguments.cutGaps()) { // they count frames of the cleaned shot
            for (const std::int64_t gap : *given)
                if (gap < cleaned.frames()) means.cuts.push_back(cleaned.origin(gap).frame);
        } else if (makesFrames(shot.cleanup))
            means.cuts = interpreted.interpretedFindings(*reader.inspect(index, LookedFor::making)).cuts;
        for (const IdleDecision& idle :
             idleDecisions(shot.cleanup, interpreted.interpretedFrames(), means.cuts, !shot.matte.empty()))
            std::cerr << idle.sentence << '\n';
    }
    return footageOf(index, shot.interpretation, cacheBytes, shot.cleanup, means);
}

GapFindings findingsOf(const ShotArguments& arguments, const Shot& shot, const Footage& footage,
                       const Reader& reader) {
    const auto cuts = arguments.cutGaps();
    const auto repeats = arguments.repeatedFrames();
    const bool sampledOnly = shot.method == Method::sample &&
                             std::all_of(shot.methodStretches.begin(), shot.methodStretches.end(),
                                         [](const MethodStretch& s) { return s.method == Method::sample; });
    GapFindings found;
    if (!sampledOnly && !(cuts && repeats))
        found = footage.axis->findings(*reader.inspect(footage.index, LookedFor::making));
    else
        found = footage.axis->findings(ShotFindings{}); // frames that are passed over all the same
    if (cuts) found.cuts = *cuts;
    if (repeats) found.repeats = *repeats;
    return found;
}

void keepForOneGap(VectorStore& vectors, const MediaFacts& facts) {
    if (isLarge(facts.width, facts.height)) return;
    constexpr std::size_t perPixel = 2 * (2 * sizeof(float) + 1); // both ways, with trust
    const std::size_t gap =
        perPixel * static_cast<std::size_t>(facts.width) * static_cast<std::size_t>(facts.height);
    vectors.setByteLimit(std::max(vectors.byteLimit(), 4 * gap));
}

} // namespace yarngap::cli
