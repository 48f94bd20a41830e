#include "cli/commands.h"
#include "cli/json_output.h"
#include "core/background_priority.h"
#include "core/render/render_job.h"

#include <nlohmann/json.hpp>

#include <cstdlib>
#include <iostream>

namespace yarngap::cli {

namespace {

/// A shot ready to be rendered, with the rate of its result.
std::pair<RenderPart, Rate> partOf(Shot shot, const ShotArguments& arguments, const RenderArguments& own,
                                   const std::optional<Rate>& rate, std::size_t cacheBytes,
                                   const std::shared_ptr<VectorStore>& vectors,
                                   const std::shared_ptr<FrameFolder>& finished, const Reader& reader) {
    own.finish.applyTo(shot.finish);
    const Footage footage = opened(shot, arguments, cacheBytes, reader, vectors, finished);
    const MediaFacts& facts = footage.axis->facts();
    Timing timing = arguments.timing(shot, facts);
    if (rate) timing = withOutputRate(timing, *rate);
    keepForOneGap(*vectors, facts);
    const GapFindings found = findingsOf(arguments, shot, footage, reader);
    if (own.mend)
        shot.mending =
            mendedAsBest(shot, footage, found, timing,
                         {.vectors = vectors, .limit = doubtLimitFrom(*own.mend), .stop = reader.stop()});
    const ReadyShot ready = own.finish.ready(
        shot, footage, found, {.vectors = vectors, .finished = finished, .timing = timing}, reader.stop());
    return {{shot.name, ready.frames}, timing.outputRate};
}

} // namespace

ExitStatus render(const ShotArguments& arguments, const RenderArguments& own, bool json,
                  const Reader& reader) {
    const std::string& target = own.target;
    const OutputFormat format = formatForTarget(target);
    std::vector<Shot> shots;
    if (own.reel) {
        std::string option = arguments.forOneShot();
        if (option.empty()) option = own.finish.forOneShot();
        if (!option.empty())
            throw WrongUsage("--reel renders the shots as the project has them; " + option +
                             " is for one shot.");
        if (std::filesystem::path(arguments.input).extension() != ".yarngap")
            throw WrongUsage("--reel needs a project; " + arguments.input + " is a media file.");
        shots = loadProject(arguments.input).shots;
        if (shots.empty()) throw Error(arguments.input + " has no shots. Add one in the window first.");
    } else {
        shots.push_back(arguments.baseShot());
    }
    constexpr std::size_t cacheBytes = std::size_t{128} << 20;
    const auto vectors = std::make_shared<VectorStore>(cacheBytes, vectorFolderOfUser());
    if (!own.vectorFiles.empty()) vectors->useFiles(own.vectorFiles);
    // Frames made by other vectors than those of the files are not what was asked for.
    const auto finished = own.vectorFiles.empty() ? frameFolderOfUser() : nullptr;
    std::vector<RenderPart> parts;
    std::optional<Rate> rate; // that of the first shot goes for all
    for (const Shot& shot : shots) {
        auto [part, ownRate] =
            partOf(shot, arguments, own, rate, cacheBytes / shots.size(), vectors, finished, reader);
        if (!rate) rate = ownRate;
        parts.push_back(std::move(part));
    }
    const auto whenUndecodable =
        own.whenUndecodable == "hold" ? WhenUndecodable::hold : WhenUndecodable::stop;
    InputFiles inputs = arguments.inputs();
    own.finish.addInputs(inputs);
    RenderJob job(std::move(parts),
                  {target, format, *rate, whenUndecodable, own.replace, std::move(inputs), yieldToInterface});
    try {
        const RenderReport report = [&] {
            TerminalProgress line;
            return job.run(
                [&](const RenderProgress& p) {
                    std::string text =
                        "Rendering " + std::to_string(p.done) + " of " + std::to_string(p.total);
                    if (p.secondsLeft >= 0)
                        text += ", " + std::to_string(static_cast<int>(p.secondsLeft + 0.5)) + " s left";
                    line.show(text);
                },
                reader.stop());
        }();
        if (json)
            print(toJson(report));
        else
            std::cout << toText(report, target);
        return report.standIns > 0 ? withStandIns : done;
    } catch (const Cancelled&) {
        // A long estimation may still be running on its thread; there is nothing to wait for.
        std::cerr << "Cancelled; nothing was written.\n" << std::flush;
        std::_Exit(cancelled);
    }
}

} // namespace yarngap::cli
