#include "cli/reader.h"

#include "core/inspection/proposals.h"

#include <algorithm>

namespace yarngap::cli {

std::shared_ptr<const MediaIndex> Reader::open(const std::filesystem::path& media) const {
    TerminalProgress line;
    return known_->index(
        media,
        [&](double share) { line.show("Indexing " + std::to_string(static_cast<int>(share * 100)) + " %"); },
        stop_);
}

std::shared_ptr<const ShotFindings> Reader::inspect(const std::shared_ptr<const MediaIndex>& index) const {
    TerminalProgress line;
    return known_->findings(
        index,
        [&](double share) { line.show("Measuring " + std::to_string(static_cast<int>(share * 100)) + " %"); },
        stop_);
}

Footage opened(Shot& shot, const ShotArguments& arguments, std::size_t cacheBytes, const Reader& reader) {
    const auto index = reader.open(shot.media);
    if (arguments.asMeasured)
        shot.interpretation = measuredInterpretation(*index, *reader.inspect(index), shot.interpretation);
    arguments.applyMethods(shot);
    return footageOf(index, shot.interpretation, cacheBytes);
}

GapFindings findingsOf(const ShotArguments& arguments, const Shot& shot, const Footage& footage,
                       const Reader& reader) {
    const auto cuts = arguments.cutGaps();
    const auto repeats = arguments.repeatedFrames();
    const bool sampledOnly = shot.method == Method::sample &&
                             std::all_of(shot.methodStretches.begin(), shot.methodStretches.end(),
                                         [](const MethodStretch& s) { return s.method == Method::sample; });
    GapFindings found;
    if (!sampledOnly && !(cuts && repeats)) found = footage.axis->findings(*reader.inspect(footage.index));
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
