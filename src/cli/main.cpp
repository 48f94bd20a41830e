// yarngap-cli: everything the core can do without a window.

#include "cli/interrupt.h"
#include "cli/json_output.h"
#include "cli/shot_arguments.h"
#include "core/allocation.h"
#include "core/files/leftovers.h"
#include "core/files/new_file.h"
#include "core/files/write_failure.h"
#include "core/inspection/proposals.h"
#include "core/media/library_messages.h"
#include "core/media/numbered_names.h"
#include "core/motion/vector_file.h"
#include "core/project/time_map_json.h"
#include "core/render/render_job.h"
#include "core/shot/ready_shot.h"
#include "core/time/edl.h"
#include "core/time/map_text.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <iostream>

#include <unistd.h>

using namespace yarngap;
using namespace yarngap::cli;

namespace {

enum ExitStatus {
    done = 0,
    failed = 1,
    wrongUsage = 2,
    undecodable = 3,  ///< a source frame cannot be decoded, so nothing was written
    withStandIns = 4, ///< written, but other frames stand in for source frames that cannot be decoded
    cancelled = 130
};

/// One line on a terminal, rewritten in place; nothing elsewhere.
class TerminalProgress {
  public:
    TerminalProgress()
        : shown_(::isatty(STDERR_FILENO) == 1) {}
    TerminalProgress(const TerminalProgress&) = delete;
    TerminalProgress& operator=(const TerminalProgress&) = delete;
    ~TerminalProgress() {
        if (used_) std::fputs("\r\033[K", stderr);
    }
    void show(const std::string& text) {
        if (!shown_) return;
        std::fprintf(stderr, "\r\033[K%s", text.c_str());
        used_ = true;
    }

  private:
    bool shown_;
    bool used_ = false;
};

std::shared_ptr<MediaIndex> open(const std::filesystem::path& media, const std::stop_token& stop) {
    TerminalProgress line;
    return std::make_shared<MediaIndex>(buildIndex(
        media,
        [&](double share) { line.show("Indexing " + std::to_string(static_cast<int>(share * 100)) + " %"); },
        stop));
}

std::shared_ptr<const ShotFindings> inspect(const std::shared_ptr<const MediaIndex>& index,
                                            const std::stop_token& stop) {
    TerminalProgress line;
    return std::make_shared<ShotFindings>(inspectShot(
        index,
        [&](double share) { line.show("Measuring " + std::to_string(static_cast<int>(share * 100)) + " %"); },
        stop));
}

/// The footage of a shot, and in `shot` what the arguments ask of it: the interpretation that the pictures
/// show, for --as-measured, and methods.
Footage opened(Shot& shot, const ShotArguments& arguments, std::size_t cacheBytes,
               const std::stop_token& stop) {
    const auto index = open(shot.media, stop);
    if (arguments.asMeasured)
        shot.interpretation = measuredInterpretation(*index, *inspect(index, stop), shot.interpretation);
    arguments.applyMethods(shot);
    return footageOf(index, shot.interpretation, cacheBytes);
}

void print(const nlohmann::ordered_json& json) {
    std::cout << json.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << '\n';
}

void probe(const std::string& input, bool json, bool claimsOnly, const std::stop_token& stop) {
    const auto index = open(input, stop);
    const auto findings = claimsOnly ? nullptr : inspect(index, stop);
    if (json) {
        auto out = toJson(index->facts);
        if (findings) out["measured"] = toJson(*index, *findings);
        print(out);
    } else {
        std::cout << toText(index->facts);
        if (findings) std::cout << toText(*index, *findings);
    }
}

void scan(const std::string& input, bool json, const std::stop_token& stop) {
    const auto index = open(input, stop);
    const auto findings = inspect(index, stop);
    constexpr std::size_t cacheBytes = std::size_t{64} << 20;
    const Footage footage = footageOf(index, measuredInterpretation(*index, *findings), cacheBytes);
    const Suitability suitability = assessSuitability(*footage.frames, *findings, stop);
    if (json) {
        auto out = toJson(*index, *findings);
        out["suitability"] = toJson(suitability);
        print(out);
    } else {
        std::cout << toText(*index, *findings) << toText(suitability);
    }
}

/// Cuts and repeats, as given or as the pictures show; none are looked for where nothing is made between
/// frames.
GapFindings findingsOf(const ShotArguments& arguments, const Shot& shot, const Footage& footage,
                       const std::stop_token& stop) {
    const auto cuts = arguments.cutGaps();
    const auto repeats = arguments.repeatedFrames();
    const bool sampledOnly = shot.method == Method::sample &&
                             std::all_of(shot.methodStretches.begin(), shot.methodStretches.end(),
                                         [](const MethodStretch& s) { return s.method == Method::sample; });
    GapFindings found;
    if (!sampledOnly && !(cuts && repeats)) found = footage.axis->findings(*inspect(footage.index, stop));
    if (cuts) found.cuts = *cuts;
    if (repeats) found.repeats = *repeats;
    return found;
}

/// Writes a file, or into a pipe or device that was named as one.
void writeText(const std::filesystem::path& target, const std::string& content) {
    std::error_code ec;
    const auto status = std::filesystem::status(target, ec);
    if (!std::filesystem::exists(status) || std::filesystem::is_regular_file(status) ||
        std::filesystem::is_directory(status)) {
        writeWhole(target, content);
        return;
    }
    std::ofstream out(target, std::ios::binary);
    out << content;
    if (!out.flush()) throw Error(target.string() + " could not be written. Choose another name.");
}

void plan(const ShotArguments& arguments, const std::string& mapTarget, const std::string& edlTarget,
          bool json, const std::stop_token& stop) {
    Shot shot = arguments.baseShot();
    const Footage footage = opened(shot, arguments, 0, stop);
    const Timing timing = arguments.timing(shot, footage.axis->facts());
    const FramePlan made = planOf(shot, *footage.axis, timing, findingsOf(arguments, shot, footage, stop));
    std::vector<std::filesystem::path> targets;
    for (const std::string& target : {mapTarget, edlTarget})
        if (!target.empty()) targets.emplace_back(target);
    InputFiles inputs = arguments.inputs();
    inputs.add(shot.media);
    inputs.refuse(targets);
    refuseSameOutput(targets);
    if (!mapTarget.empty())
        writeText(mapTarget, std::filesystem::path(mapTarget).extension() == ".json"
                                 ? writeKeys(timing.asKeys()).dump(1) + '\n'
                                 : toCsv(timing.asKeys()));
    if (!edlTarget.empty()) writeText(edlTarget, toEdl(shot.name, shot.media.filename().string(), timing));
    if (json)
        std::cout << toJson(timing, made).dump(1) << '\n';
    else
        std::cout << toText(timing, made);
}

/// Leaves room for what the frames of one gap are made by: its vectors, as they are and with what the gaps
/// beside tell, and those of both of them. Of large pictures so many are not needed.
void keepForOneGap(VectorStore& vectors, const MediaFacts& facts) {
    if (isLarge(facts.width, facts.height)) return;
    constexpr std::size_t perPixel = 2 * (2 * sizeof(float) + 1); // both ways, with trust
    const std::size_t gap =
        perPixel * static_cast<std::size_t>(facts.width) * static_cast<std::size_t>(facts.height);
    vectors.setByteLimit(std::max(vectors.byteLimit(), 4 * gap));
}

/// A shot ready to be rendered, with the rate of its result.
std::pair<RenderPart, Rate> partOf(Shot shot, const ShotArguments& arguments, const std::optional<Rate>& rate,
                                   std::size_t cacheBytes, const std::shared_ptr<VectorStore>& vectors,
                                   const std::shared_ptr<FrameFolder>& finished,
                                   const std::stop_token& stop) {
    const Footage footage = opened(shot, arguments, cacheBytes, stop);
    const MediaFacts& facts = footage.axis->facts();
    Timing timing = arguments.timing(shot, facts);
    if (rate) timing = withOutputRate(timing, *rate);
    keepForOneGap(*vectors, facts);
    const ReadyShot ready = readyShot(shot, footage, findingsOf(arguments, shot, footage, stop),
                                      {.vectors = vectors, .finished = finished, .timing = timing});
    return {{shot.name, *ready.maker, *ready.plan}, timing.outputRate};
}

/// The trim slowed to half, so that one frame lies in the middle of every gap.
Timing halved(const Timing& timing) {
    return {.sourceRate = timing.sourceRate,
            .outputRate = timing.sourceRate,
            .from = timing.from,
            .to = timing.to,
            .speed = Rational(1, 2)};
}

/// Writes the vectors by which frames of the slowed trim are made as files into `target`.
void writeGaps(const ShotArguments& arguments, const std::string& target, const std::stop_token& stop) {
    Shot shot = arguments.baseShot();
    constexpr std::size_t cacheBytes = std::size_t{128} << 20;
    const Footage footage = opened(shot, arguments, cacheBytes, stop);
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
    const ReadyShot ready = readyShot(shot, footage, findingsOf(arguments, shot, footage, stop),
                                      {.vectors = vectors, .timing = halved(arguments.timing(shot, facts))});
    std::vector<PlanRow> rows = ready.plan->rows;
    std::erase_if(rows, [](const PlanRow& row) { return row.kind != FrameKind::flow || row.bridged; });
    std::vector<std::filesystem::path> files;
    files.reserve(rows.size());
    for (const PlanRow& row : rows)
        files.push_back(std::filesystem::path(target) / gapFileName(row.first));
    InputFiles inputs = arguments.inputs();
    inputs.add(ready.maker->inputFiles());
    inputs.refuse(files);
    std::error_code ec;
    std::filesystem::create_directories(target, ec);
    removeLeftovers(target);
    TerminalProgress line;
    for (std::size_t n = 0; n < rows.size(); ++n) {
        const PlanRow& row = rows[n];
        line.show("Gap " + std::to_string(n + 1) + " of " + std::to_string(rows.size()));
        writeVectors(files[n], *ready.maker->estimate(row, ready.maker->read(row, stop), stop).background,
                     footage.frames->identity() + ':' + std::to_string(row.first));
    }
    std::cout << "Wrote the vectors of " << rows.size() << " gaps to " << target << ".\n";
}

/// The options of `render` alone.
struct RenderArguments {
    std::string target;
    std::string vectorFiles;
    std::string whenUndecodable = "stop";
    bool replace = false;
    bool reel = false;
};

ExitStatus render(const ShotArguments& arguments, const RenderArguments& own, bool json,
                  const std::stop_token& stop) {
    const std::string& target = own.target;
    const OutputFormat format = formatForTarget(target);
    std::vector<Shot> shots;
    if (own.reel) {
        if (const std::string option = arguments.forOneShot(); !option.empty())
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
            partOf(shot, arguments, rate, cacheBytes / shots.size(), vectors, finished, stop);
        if (!rate) rate = ownRate;
        parts.push_back(std::move(part));
    }
    const auto whenUndecodable =
        own.whenUndecodable == "hold" ? WhenUndecodable::hold : WhenUndecodable::stop;
    RenderJob job(std::move(parts),
                  {target, format, *rate, whenUndecodable, own.replace, arguments.inputs()});
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
                stop);
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

} // namespace

int main(int argc, char** argv) {
    reuseFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN); // a file size limit shows as a failed write with a sentence
    silenceMediaLibraries();
    const Interrupt interrupt;

    CLI::App app{"Yarn Gap: slow motion, ramps and frame-rate conversion, frame by frame.", "yarngap-cli"};
    app.require_subcommand(1);
    bool json = false;
    std::string vectorsTarget;
    std::string mapTarget;
    std::string edlTarget;
    RenderArguments rendering;
    ShotArguments arguments;

    CLI::App* probeCommand =
        app.add_subcommand("probe", "What a shot is: rate, frame count, size, pixel format");
    probeCommand->add_option("SHOT", arguments.input, "Media file")->required();
    probeCommand->add_flag("--json", json, "Print JSON");
    bool claimsOnly = false;
    probeCommand->add_flag("--claims-only", claimsOnly, "What the file says, without decoding it to measure");

    CLI::App* scanCommand =
        app.add_subcommand("scan", "What the pictures show: scan, cadence, repeats, cuts");
    scanCommand->add_option("SHOT", arguments.input, "Media file")->required();
    scanCommand->add_flag("--json", json, "Print JSON");

    CLI::App* planCommand = app.add_subcommand("plan", "Which source frames make which output frame");
    planCommand->add_option("SHOT", arguments.input, "Media file or project")->required();
    planCommand->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
    planCommand->add_flag("--json", json, "Print JSON, with a row for every output frame");
    planCommand->add_option("--write-map", mapTarget, "Also write the time map, as .csv or .json");
    planCommand->add_option("--write-edl", edlTarget,
                            "Also write an edit decision list with the trim and the speed");
    arguments.addTo(*planCommand);

    CLI::App* renderCommand = app.add_subcommand("render", "Write the result");
    renderCommand->add_option("SHOT", arguments.input, "Media file or project")->required();
    renderCommand->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
    renderCommand
        ->add_option("-o", rendering.target,
                     "Result: .mkv (FFV1), .mp4 (H.264), .mov (ProRes), .png or .exr (sequence)")
        ->required();
    renderCommand->add_flag("--replace", rendering.replace,
                            "Pictures of a sequence that are there already may go");
    renderCommand
        ->add_option("--undecodable", rendering.whenUndecodable,
                     "A source frame that cannot be decoded: stop (the default), or hold the one before")
        ->check(CLI::IsMember({"stop", "hold"}));
    renderCommand->add_flag("--reel", rendering.reel,
                            "All shots of the project in their order, as one file, at the first one's rate");
    renderCommand->add_option("--vectors", rendering.vectorFiles,
                              "Folder with motion vectors to use, as `vectors` writes them");
    renderCommand->add_flag("--json", json, "Print the report as JSON");
    arguments.addTo(*renderCommand);

    CLI::App* vectorsCommand = app.add_subcommand(
        "vectors", "Write the motion vectors that frames are made by, an OpenEXR file for every gap");
    vectorsCommand->add_option("SHOT", arguments.input, "Media file or project")->required();
    vectorsCommand->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
    vectorsCommand->add_option("-o", vectorsTarget, "Folder for the files")->required();
    vectorsCommand->add_option("--from", arguments.from, "First source frame used, counted from 0");
    vectorsCommand->add_option("--to", arguments.to, "Last source frame used, included");
    arguments.inBetweens.addTo(*vectorsCommand, false);
    arguments.addFindingsTo(*vectorsCommand);

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error, std::cout, std::cerr) == 0 ? done : wrongUsage;
    }

    try {
        if (arguments.method) parseMethod(*arguments.method);
        InBetweens checked;
        arguments.inBetweens.applyTo(checked);
        if (*renderCommand) formatForTarget(rendering.target);
    } catch (const Error& error) {
        std::cerr << error.what() << '\n';
        return wrongUsage;
    }

    const auto told = [](const std::exception& error, ExitStatus status) {
        std::cerr << sentenceOf(error) << '\n';
        return status;
    };
    try {
        ExitStatus status = done;
        if (*probeCommand) probe(arguments.input, json, claimsOnly, interrupt.token());
        if (*scanCommand) scan(arguments.input, json, interrupt.token());
        if (*planCommand) plan(arguments, mapTarget, edlTarget, json, interrupt.token());
        if (*renderCommand) status = render(arguments, rendering, json, interrupt.token());
        if (*vectorsCommand) writeGaps(arguments, vectorsTarget, interrupt.token());
        if (!std::cout.flush()) {
            std::cerr << "Standard output cannot be written to; what should stand there is lost.\n";
            return failed;
        }
        return status;
    } catch (const WrongUsage& error) {
        return told(error, wrongUsage);
    } catch (const UnclearNumber& error) {
        return told(error, wrongUsage);
    } catch (const Undecodable& error) {
        return told(error, undecodable);
    } catch (const Cancelled&) {
        std::cerr << (*vectorsCommand ? "Cancelled.\n" : "Cancelled; nothing was written.\n");
        return cancelled;
    } catch (const std::exception& error) {
        return told(error, failed);
    }
}
