// yarngap-cli: everything the core can do without a window.

#include "cli/commands.h"
#include "cli/interrupt.h"
#include "core/allocation.h"
#include "core/files/write_failure.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/media/numbered_names.h"

#include <csignal>
#include <iostream>

using namespace yarngap;
using namespace yarngap::cli;

int main(int argc, char** argv) {
    reuseFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN); // a file size limit shows as a failed write with a sentence
    silenceMediaLibraries();
    const Interrupt interrupt; // before any other thread

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
        const Reader reader(interrupt.token());
        ExitStatus status = done;
        if (*probeCommand) probe(arguments.input, json, claimsOnly, reader);
        if (*scanCommand) scan(arguments.input, json, reader);
        if (*planCommand) plan(arguments, mapTarget, edlTarget, json, reader);
        if (*renderCommand) status = render(arguments, rendering, json, reader);
        if (*vectorsCommand) writeGaps(arguments, vectorsTarget, reader);
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
