// yarngap-cli: everything the core can do without a window.

#include "cli/commands.h"
#include "cli/interrupt.h"
#include "core/allocation.h"
#include "core/cleaning/found_decisions.h"
#include "core/files/write_failure.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/media/numbered_names.h"
#include "core/version.h"

#include <csignal>
#include <iostream>

using namespace yarngap;
using namespace yarngap::cli;

namespace {

/// The subcommands with what they read from the command line.
struct CommandLine {
    CLI::App app{"Yarn Gap: slow motion, ramps and frame-rate conversion, frame by frame.", "yarngap-cli"};
    bool json = false;
    bool claimsOnly = false;
    VectorsArguments vectorsAsked;
    DoubtArguments doubting;
    std::string mapTarget;
    std::string edlTarget;
    RenderArguments rendering;
    OpenEditArguments opening;
    HandBackArguments handing;
    FarmArguments farming;
    CleanArguments cleaning{.target = {}, .certainty = usualCertainty, .lookAt = "picture"};
    ShotArguments arguments;
    CLI::App* probe = app.add_subcommand("probe", "What a shot is: rate, frame count, size, pixel format");
    CLI::App* scan = app.add_subcommand("scan", "What the pictures show: scan, cadence, repeats, cuts");
    CLI::App* clean =
        app.add_subcommand("clean", "Write what to put right in the source: repeats, damage, lost frames");
    CLI::App* doubtful =
        app.add_subcommand("doubt", "Which in-betweens to doubt, worst first, and what is wrong with them");
    CLI::App* plan = app.add_subcommand("plan", "Which source frames make which output frame");
    CLI::App* render = app.add_subcommand("render", "Write the result");
    CLI::App* openEdit = app.add_subcommand(
        "open-edit", "Make a project of an edit's list, EDL or OpenTimelineIO: a shot for each event");
    CLI::App* handBack = app.add_subcommand(
        "hand-back", "Render shots of an edit with handles, and write the list that replaces them");
    CLI::App* farm = app.add_subcommand("farm", "What became of a render that was handed to Slurm");
    CLI::App* vectors = app.add_subcommand(
        "vectors", "Write the motion vectors that frames are made by, an OpenEXR file for every gap");

    CommandLine() {
        app.require_subcommand(1);
        app.set_version_flag("--version", "yarngap-cli " + std::string(version()), "Print the version");
        addInspecting();
        addCleaning();
        addDoubting();
        addPlanning();
        addRendering();
        addEditing();
        addFarming();
        addVectors();
    }

  private:
    void addInspecting() {
        probe->add_option("SHOT", arguments.input, "Media file")->required();
        probe->add_flag("--json", json, "Print JSON");
        probe->add_flag("--claims-only", claimsOnly, "What the file says, without decoding it to measure");

        scan->add_option("SHOT", arguments.input, "Media file")->required();
        scan->add_flag("--json", json, "Print JSON");
    }

    void addCleaning() {
        clean->add_option("SHOT", arguments.input, "Media file or project")->required();
        clean->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
        clean->add_option("-o", cleaning.target, "File of decisions, .json; see --clean of render")
            ->required();
        clean->add_option("--certainty", cleaning.certainty, "How sure the search must be, 0 to 1")
            ->check(CLI::Range(0.0, 1.0))
            ->capture_default_str();
        clean
            ->add_option(
                "--look-at", cleaning.lookAt,
                "What must stand still for a frame to be passed over: the picture, the figure, or the "
                "subject of a matte, which alone is passed over")
            ->check(CLI::IsMember({"picture", "figure", "subject"}))
            ->capture_default_str();
        arguments.addMatteTo(*clean);
        clean->add_flag("--as-measured", arguments.asMeasured,
                        "Undo fields, pulldown, varying times and rotation first, as the pictures show them");
    }

    void addDoubting() {
        doubtful->add_option("SHOT", arguments.input, "Media file or project")->required();
        doubtful->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
        doubtful->add_flag("--json", json, "Print JSON");
        doubting.slices.addTo(*doubtful);
        doubtful->add_flag("--join", doubting.join, "Print what all parts saw (with --slices N)");
        doubtful->add_option("-o", doubting.folder, "Folder where parts keep what they see");
        arguments.addTo(*doubtful);
    }

    void addPlanning() {
        plan->add_option("SHOT", arguments.input, "Media file or project")->required();
        plan->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
        plan->add_flag("--json", json, "Print JSON, with a row for every output frame");
        plan->add_option("--write-map", mapTarget, "Also write the time map, as .csv or .json");
        plan->add_option("--write-edl", edlTarget,
                         "Also write an edit decision list with the trim and the speed");
        arguments.addTo(*plan);
    }

    void addRendering() {
        render->add_option("SHOT", arguments.input, "Media file or project")->required();
        render->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
        rendering.output.addTo(*render);
        render->add_option(
            "--mend", rendering.mend,
            "Mend what can be bettered first: auto, or auto:LIMIT for gaps of that doubt or more, "
            "0 to 1");
        render->add_flag("--reel", rendering.reel,
                         "All shots of the project in their order, as one file, at the first one's rate");
        render->add_option("--vectors", rendering.vectorFiles,
                           "Folder with motion vectors to use, as `vectors` writes them");
        render->add_flag("--json", json, "Print the report as JSON");
        arguments.addTo(*render);
        rendering.finish.addTo(*render);
    }

    void addFarming() {
        farm->add_option("RESULT", farming.target, "The result, as -o of render named it")->required();
        auto* cancel =
            farm->add_flag("--cancel", farming.cancel, "Take its jobs off the cluster; ready parts stay");
        auto* retry = farm->add_flag("--retry", farming.retry, "Submit the parts that failed once more");
        auto* log = farm->add_option("--log", farming.log,
                                     "Show the log of a part, or of the join: a number, or join");
        cancel->excludes(retry)->excludes(log);
        retry->excludes(log);
        farm->add_flag("--json", json, "Print JSON");
    }

    void addEditing() {
        openEdit->add_option("LIST", opening.list, "List of the edit: .edl (CMX 3600) or .otio")->required();
        openEdit
            ->add_option("--media", opening.folders,
                         "Folder with the media, looked through with all below it; may be repeated")
            ->take_all();
        openEdit->add_option("-o", opening.project, "Project to write, .yarngap")->required();
        openEdit->add_option("--rate", opening.rate, "Frame rate of an EDL, which does not say")
            ->capture_default_str();
        openEdit->add_option(
            "--keep", opening.before,
            "Project of the same edit: its shots keep their treatment, and what changed is told");
        handBack->add_option("PROJECT", handing.project, "Project with shots of an edit")->required();
        handBack->add_option("-o", handing.list, "List to write: .edl or .otio")->required();
        handBack->add_option("--to", handing.pattern, "Names of the rendered files, see -o of render")
            ->capture_default_str();
        handBack->add_option("--shot", handing.shots, "Only these shots, by name or number; may be repeated")
            ->take_all();
        handBack->add_option("--handles", handing.handles, "Output frames before and after each shot")
            ->check(CLI::Range(0, 10'000))
            ->capture_default_str();
        handBack->add_option("--preset", handing.preset, "A file of output settings");
        handBack->add_option("--format", handing.format, "Format, see render; by default the ending decides");
        handBack->add_flag("--replace", handing.replace,
                           "Pictures of a sequence that are there already may go");
    }

    void addVectors() {
        vectors->add_option("SHOT", arguments.input, "Media file or project")->required();
        vectors->add_option("--shot", arguments.shot, "Shot of a project, by name or number");
        vectors->add_option("-o", vectorsAsked.target, "Folder for the files")->required();
        vectorsAsked.slices.addTo(*vectors);
        vectors->add_option("--from", arguments.from, "First source frame used, counted from 0");
        vectors->add_option("--to", arguments.to, "Last source frame used, included");
        arguments.inBetweens.addTo(*vectors, false);
        arguments.addFindingsTo(*vectors);
    }
};

/// The command line without what differs between those who make the slices of one render.
std::string askedFrom(int argc, char** argv) {
    std::string asked;
    for (int i = 1; i < argc; ++i) {
        const std::string word = argv[i];
        if (word == "--slice") ++i;
        if (word == "--slice" || word.starts_with("--slice=") || word == "--join" || word == "--prepare" ||
            word == "--farm" || word == "--json" || word == "--replace")
            continue;
        asked += word + '\n';
    }
    return asked;
}

/// Does what the command line asks.
ExitStatus run(const CommandLine& line, const Reader& reader) {
    ExitStatus status = done;
    if (*line.probe) probe(line.arguments.input, line.json, line.claimsOnly, reader);
    if (*line.scan) scan(line.arguments.input, line.json, reader);
    if (*line.clean) clean(line.arguments, line.cleaning, reader);
    if (*line.doubtful) doubt(line.arguments, line.doubting, line.json, reader);
    if (*line.plan) plan(line.arguments, line.mapTarget, line.edlTarget, line.json, reader);
    if (*line.render) status = render(line.arguments, line.rendering, line.json, reader);
    if (*line.openEdit) status = openEditList(line.opening, reader);
    if (*line.handBack) status = handBackShots(line.handing, reader);
    if (*line.farm) status = lookAtFarm(line.farming, line.json);
    if (*line.vectors) writeGaps(line.arguments, line.vectorsAsked, reader);
    if (!std::cout.flush()) {
        std::cerr << "Standard output cannot be written to; what should stand there is lost.\n";
        return failed;
    }
    return status;
}

} // namespace

int main(int argc, char** argv) {
    reuseFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN); // a file size limit shows as a failed write with a sentence
    silenceMediaLibraries();
    const Interrupt interrupt; // before any other thread
    CommandLine line;

    try {
        line.app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return line.app.exit(error, std::cout, std::cerr) == 0 ? done : wrongUsage;
    }

    try {
        if (line.arguments.method) parseMethod(*line.arguments.method);
        InBetweens checked;
        line.arguments.inBetweens.applyTo(checked);
        if (line.rendering.mend) doubtLimitFrom(*line.rendering.mend);
        line.rendering.finish.check();
        line.vectorsAsked.slices.check(true);
        line.doubting.check();
        if (*line.render) {
            line.rendering.output.check();
            line.rendering.asked = askedFrom(argc, argv);
            line.rendering.words.assign(argv, argv + argc);
        }
    } catch (const Error& error) {
        std::cerr << error.what() << '\n';
        return wrongUsage;
    }

    const auto told = [](const std::exception& error, ExitStatus status) {
        std::cerr << sentenceOf(error) << '\n';
        return status;
    };
    try {
        return run(line, Reader(interrupt.token()));
    } catch (const WrongUsage& error) {
        return told(error, wrongUsage);
    } catch (const UnclearNumber& error) {
        return told(error, wrongUsage);
    } catch (const Undecodable& error) {
        return told(error, undecodable);
    } catch (const Cancelled&) {
        std::cerr << (*line.vectors ? "Cancelled.\n" : "Cancelled; nothing was written.\n");
        return cancelled;
    } catch (const std::exception& error) {
        return told(error, failed);
    }
}
