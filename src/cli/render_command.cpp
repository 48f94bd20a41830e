#include "cli/commands.h"
#include "cli/json_output.h"
#include "core/background_priority.h"
#include "core/files/file_once.h"
#include "core/files/local_file.h"
#include "core/media/media_identity.h"
#include "core/project/farm_work.h"
#include "core/project/work_file.h"
#include "core/render/farm.h"
#include "core/render/render_job.h"
#include "core/render/slice_folder.h"

#include <nlohmann/json.hpp>

#include <cstdlib>
#include <iostream>
#include <set>

namespace yarngap::cli {

namespace {

constexpr std::size_t cacheBytes = std::size_t{128} << 20;

std::vector<Shot> shotsAsked(const ShotArguments& arguments, const RenderArguments& own) {
    if (!own.reel) return {arguments.baseShot()};
    std::string option = arguments.forOneShot();
    if (option.empty()) option = own.finish.forOneShot();
    if (!option.empty())
        throw WrongUsage("--reel renders the shots as the project has them; " + option + " is for one shot.");
    if (std::filesystem::path(arguments.input).extension() != ".yarngap")
        throw WrongUsage("--reel needs a project; " + arguments.input + " is a media file.");
    std::vector<Shot> shots = loadProject(arguments.input).shots;
    if (shots.empty()) throw Error(arguments.input + " has no shots. Add one in the window first.");
    return shots;
}

/// Finds out all that the frames of a shot depend on. `rate`: that of the file, where another shot has set
/// it.
WorkShot workOf(Shot shot, const ShotArguments& arguments, const RenderArguments& own,
                const std::optional<Rate>& rate, OutputScan scan, WorkMeans& means, const Reader& reader) {
    own.finish.applyTo(shot.finish);
    const Footage footage = opened(shot, arguments, means.cacheBytes, reader, means.vectors, means.finished);
    means.open.push_back(footage.index);
    const MediaFacts& facts = footage.axis->facts();
    WorkShot of{.shot = {}, .timing = arguments.timing(shot, facts)};
    if (rate) of.timing = withOutputRate(of.timing, *rate);
    const Timing made = withOutputRate(of.timing, rateToMake(scan, of.timing.outputRate));
    keepForOneGap(*means.vectors, facts);
    of.found = findingsOf(arguments, shot, footage, reader);
    if (own.mend)
        shot.mending = mendedAsBest(
            shot, footage, *of.found, made,
            {.vectors = means.vectors, .limit = doubtLimitFrom(*own.mend), .stop = reader.stop()});
    if (!shot.cleanup.empty()) {
        const SourceAxis interpreted(*footage.index, shot.interpretation);
        if (const auto given = arguments.cutGaps()) { // they count frames of the cleaned shot
            for (const std::int64_t gap : *given)
                if (gap < footage.axis->frames()) of.uncleanedCuts.push_back(footage.axis->origin(gap).frame);
        } else
            of.uncleanedCuts =
                interpreted.interpretedFindings(*reader.inspect(footage.index, LookedFor::making)).cuts;
    }
    of.shot = own.finish.finished(shot, footage, *of.found,
                                  {.vectors = means.vectors, .finished = means.finished, .timing = made},
                                  reader.stop());
    of.shot.identity = footage.index->identity;
    const auto [first, last] = own.output.frames();
    of.first = first;
    of.last = last;
    return of;
}

RenderWork workAsked(const ShotArguments& arguments, const RenderArguments& own, WorkMeans& means,
                     const Reader& reader) {
    RenderWork work;
    work.settings = own.output.settings();
    std::optional<Rate> rate; // that of the first shot goes for all
    for (const Shot& shot : shotsAsked(arguments, own)) {
        work.shots.push_back(workOf(shot, arguments, own, rate, work.settings.scan, means, reader));
        if (!rate) rate = work.shots.back().timing.outputRate;
    }
    refuseScanAt(work.settings.scan, work.rate());
    const WorkShot& first = work.shots.front();
    work.name = own.reel ? "reel" : first.shot.name;
    work.targets = own.output.targets(first.shot, first.timing);
    return work;
}

/// What this run was asked for: the command line, and what the files say that it names.
std::string askedKey(const ShotArguments& arguments, const RenderArguments& own) {
    std::string text = own.asked;
    constexpr std::int64_t most = 64 << 20;
    if (std::filesystem::path(arguments.input).extension() == ".yarngap")
        text += contentOf(arguments.input, most, "project");
    for (const auto& file : {arguments.mends, own.output.preset, own.finish.finish, arguments.map})
        if (file) text += contentOf(*file, most, "file");
    return std::to_string(hashOf(std::as_bytes(std::span(text))));
}

/// Whether the input is the work of slices itself, as a window writes it down for a farm.
bool isWorkOfSlices(const ShotArguments& arguments, const SliceFolder& folder) {
    std::error_code ec;
    return std::filesystem::path(arguments.input).filename() == folder.workFile().filename() &&
           std::filesystem::equivalent(arguments.input, folder.workFile(), ec);
}

/// All is said in a work of slices. Throws WrongUsage for an option that would say otherwise.
void refuseOptionsBesides(const ShotArguments& arguments, const RenderArguments& own) {
    const std::set<std::string> withValue{"-o", "--slices", "--slice"};
    const std::set<std::string> flags{"--join", "--json", "--replace"};
    constexpr std::size_t behindCommand = 2;
    for (std::size_t i = behindCommand; i < own.words.size(); ++i) {
        if (withValue.contains(own.words[i]))
            ++i;
        else if (own.words[i] != arguments.input && !flags.contains(own.words[i]))
            throw WrongUsage("The job beside a result says what is rendered; " + own.words[i] +
                             " cannot be given with it.");
    }
}

/// The work that all workers on its slices share; the first of them writes it down.
RenderWork sharedWork(const ShotArguments& arguments, const RenderArguments& own, WorkMeans& means,
                      const Reader& reader) {
    const SliceFolder folder(SliceFolder::beside(own.output.target));
    if (isWorkOfSlices(arguments, folder)) {
        refuseOptionsBesides(arguments, own);
        RenderWork work = workBeside(own.output.target);
        if (work.targets.front().file != std::filesystem::absolute(own.output.target))
            throw Error(folder.workFile().string() + " is the job of " + work.targets.front().file.string() +
                        ", not of " + own.output.target + ". Give the result that it belongs to.");
        return work;
    }
    const auto base = std::filesystem::absolute(folder.path());
    const std::string asked = askedKey(arguments, own);
    folder.create();
    if (!std::filesystem::exists(folder.workFile())) {
        RenderWork work = workAsked(arguments, own, means, reader);
        work.asked = asked;
        for (WorkShot& of : work.shots)
            of.shot.media = std::filesystem::absolute(of.shot.media);
        for (RenderTarget& target : work.targets)
            target.file = std::filesystem::absolute(target.file);
        static_cast<void>(writeOnce(folder.workFile(), workText(work, base)));
    }
    RenderWork work = workBeside(own.output.target);
    if (work.asked != asked)
        throw Error(folder.path().string() +
                    " was begun for other shots or settings than these. Delete it to begin anew, or choose "
                    "another name.");
    for (RenderTarget& target : work.targets)
        target.replace = own.output.replace;
    return work;
}

/// Submits the same command for each slice.
void handToFarm(const RenderArguments& own, const RenderWork& work) {
    FarmJob job{.folder = std::filesystem::absolute(SliceFolder::beside(own.output.target)),
                .name = std::filesystem::path(own.output.target).stem().string(),
                .workingFolder = std::filesystem::current_path(),
                .command = {std::filesystem::read_symlink("/proc/self/exe").string()},
                .slices = static_cast<int>(
                    slicesOf(framesToMake(work), *own.output.slices, work.settings.scan).size())};
    for (std::size_t i = 1; i < own.words.size(); ++i)
        if (own.words[i] != "--farm") job.command.push_back(own.words[i]);
    submitToFarm(job);
    std::cout << job.slices << " slices are handed to Slurm. Look at them with: yarngap-cli farm "
              << own.output.target << '\n';
}

std::string progressText(const RenderProgress& p) {
    std::string text =
        (p.joining ? "Joining " : "Rendering ") + std::to_string(p.done) + " of " + std::to_string(p.total);
    if (p.secondsLeft >= 0) text += ", " + std::to_string(static_cast<int>(p.secondsLeft + 0.5)) + " s left";
    return text;
}

} // namespace

ExitStatus render(const ShotArguments& arguments, const RenderArguments& own, bool json,
                  const Reader& reader) {
    WorkMeans means{.vectors = std::make_shared<VectorStore>(cacheBytes, vectorFolderOfUser()),
                    .known = reader.known(),
                    .cacheBytes = cacheBytes};
    if (!own.vectorFiles.empty()) means.vectors->useFiles(own.vectorFiles);
    // Frames made by other vectors than those of the files are not what was asked for.
    if (own.vectorFiles.empty()) means.finished = frameFolderOfUser();
    const RenderWork work = own.output.slices ? sharedWork(arguments, own, means, reader)
                                              : workAsked(arguments, own, means, reader);
    const std::string target = work.targets.front().file.string();
    if (own.output.prepareOnly) {
        std::cout << SliceFolder::beside(own.output.target).string() << " is prepared for "
                  << *own.output.slices << " slices.\n";
        return done;
    }
    if (own.output.farm) {
        handToFarm(own, work);
        return done;
    }
    std::vector<RenderPart> parts = partsOf(work, means, reader.stop());
    RenderOptions options = optionsOf(work, parts);
    options.slices = own.output.sliceUse(own.output.slices ? own.output.target : target, framesOf(parts));
    options.inputs = arguments.inputs();
    options.inputs.add(work.spared);
    own.finish.addInputs(options.inputs);
    if (own.output.preset) options.inputs.add(*own.output.preset);
    options.onThreadStart = yieldToInterface;
    const bool resumes = options.slices.has_value();
    RenderJob job(std::move(parts), std::move(options));
    try {
        const RenderReport report = [&] {
            TerminalProgress line;
            return job.run([&](const RenderProgress& p) { line.show(progressText(p)); }, reader.stop());
        }();
        if (json)
            print(toJson(report));
        else if (own.output.slice)
            std::cout << "Slice " << *own.output.slice << " of " << *own.output.slices << " is ready.\n";
        else
            std::cout << toText(report, target);
        return report.standIns > 0 ? withStandIns : done;
    } catch (const Cancelled&) {
        // A long estimation may still be running on its thread; there is nothing to wait for.
        std::cerr << (resumes ? "Cancelled. Finished parts are kept; the same command goes on from there.\n"
                              : "Cancelled; nothing was written.\n")
                  << std::flush;
        std::_Exit(cancelled);
    }
}

} // namespace yarngap::cli
