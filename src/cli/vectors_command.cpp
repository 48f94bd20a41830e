#include "cli/commands.h"
#include "core/files/leftovers.h"
#include "core/motion/cell_vectors.h"
#include "core/motion/vector_file.h"

#include <iostream>

namespace yarngap::cli {

namespace {

/// The trim slowed to half, so that one frame lies in the middle of every gap.
Timing halved(const Timing& timing) {
    return {.sourceRate = timing.sourceRate,
            .outputRate = timing.sourceRate,
            .from = timing.from,
            .to = timing.to,
            .speed = Rational(1, 2)};
}

} // namespace

void writeGaps(const ShotArguments& arguments, const VectorsArguments& own, const Reader& reader) {
    const std::string& target = own.target;
    Shot shot = arguments.baseShot();
    constexpr std::size_t cacheBytes = std::size_t{128} << 20;
    const Footage footage = opened(shot, arguments, cacheBytes, reader);
    const MediaFacts& facts = footage.axis->facts();
    shot.method = Method::flow;
    shot.methodStretches.clear();
    shot.matte = {};
    // Of these nothing shows in vectors, and looking into them takes time.
    shot.inBetweens.synthesis.bendPaths = false;
    shot.inBetweens.synthesis.evenTexture = false;
    shot.inBetweens.synthesis.shutterAngle = 0;
    const auto vectors = std::make_shared<VectorStore>(cacheBytes, vectorFolderOfUser());
    keepForOneGap(*vectors, facts);
    const ReadyShot ready = readyShot(shot, footage, findingsOf(arguments, shot, footage, reader),
                                      {.vectors = vectors, .timing = halved(arguments.timing(shot, facts))});
    std::vector<PlanRow> rows = ready.plan->rows;
    std::erase_if(rows, [](const PlanRow& row) { return row.kind != FrameKind::flow || row.bridged; });
    const auto [first, end] = own.slices.of(rows.size());
    rows.assign(rows.begin() + static_cast<std::ptrdiff_t>(first),
                rows.begin() + static_cast<std::ptrdiff_t>(end));
    std::vector<std::filesystem::path> files;
    files.reserve(rows.size());
    for (const PlanRow& row : rows)
        files.push_back(std::filesystem::path(target) / gapFileName(row.first));
    InputFiles inputs = arguments.inputs();
    inputs.add(ready.frames->inputFiles());
    inputs.refuse(files);
    std::error_code ec;
    std::filesystem::create_directories(target, ec);
    if (!own.slices.slice) removeLeftovers(target); // or another machine may be writing there
    TerminalProgress line;
    for (std::size_t n = 0; n < rows.size(); ++n) {
        const PlanRow& row = rows[n];
        line.show("Gap " + std::to_string(n + 1) + " of " + std::to_string(rows.size()));
        const VectorsPtr made = ready.planned->vectorsOf(row.output, reader.stop());
        writeVectors(files[n], byPixels(*made, facts.width, facts.height),
                     footage.frames->identityOf(row.first));
    }
    std::cout << "Wrote the vectors of " << rows.size() << " gaps to " << target << ".\n";
}

} // namespace yarngap::cli
