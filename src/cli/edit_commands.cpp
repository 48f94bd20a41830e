#include "cli/commands.h"
#include "cli/text_target.h"
#include "core/background_priority.h"
#include "core/edit/hand_back.h"
#include "core/edit/open_edit.h"
#include "core/project/work_file.h"
#include "core/render/render_job.h"

#include <charconv>
#include <iostream>

namespace yarngap::cli {

namespace {

constexpr std::size_t cacheBytes = std::size_t{128} << 20;

void refuseOtherThanList(const std::string& list) {
    if (!isEditList(list)) throw WrongUsage(list + " should end in .edl or .otio.");
}

/// The shots asked for, in the order of the project.
std::vector<Shot> chosenShots(const Project& project, const std::vector<std::string>& asked) {
    if (asked.empty()) return project.shots;
    std::vector<bool> wanted(project.shots.size());
    for (const std::string& name : asked) {
        std::size_t number = 0;
        std::from_chars(name.data(), name.data() + name.size(), number);
        bool any = false;
        for (std::size_t i = 0; i < project.shots.size(); ++i)
            if (project.shots[i].name == name || i + 1 == number) any = wanted[i] = true;
        if (!any) throw WrongUsage("There is no shot " + name + " in the project.");
    }
    std::vector<Shot> shots;
    for (std::size_t i = 0; i < wanted.size(); ++i)
        if (wanted[i]) shots.push_back(project.shots[i]);
    return shots;
}

RenderSettings settingsFor(const HandBackArguments& arguments) {
    try {
        RenderSettings settings;
        if (arguments.preset) settings = loadRenderSettings(*arguments.preset);
        if (arguments.format)
            settings.format = parseOutputFormat(*arguments.format);
        else if (!arguments.preset)
            settings.format = formatForTarget(arguments.pattern);
        refuseEnding(arguments.pattern, settings.format.format);
        return settings;
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
}

/// Renders one shot of an edit.
void renderWork(const RenderWork& work, const WorkMeans& means, const InputFiles& inputs,
                const Reader& reader) {
    const RenderWork ready = prepared(work, means, reader.stop());
    std::vector<RenderPart> parts = partsOf(ready, means, reader.stop());
    keepForOneGap(*means.vectors, parts.front().frames->facts());
    RenderOptions options = optionsOf(ready, parts);
    options.inputs = inputs;
    options.onThreadStart = yieldToInterface;
    RenderJob job(std::move(parts), std::move(options));
    TerminalProgress line;
    const RenderReport report = job.run(
        [&](const RenderProgress& p) {
            line.show(work.name + ": " + std::to_string(p.done) + " of " + std::to_string(p.total));
        },
        reader.stop());
    std::cout << work.targets.front().file.string() << ": " << report.frames << " frames\n";
    for (const std::string& note : report.notes)
        std::cout << note << '\n';
}

} // namespace

ExitStatus openEditList(const OpenEditArguments& arguments, const Reader& reader) {
    refuseOtherThanList(arguments.list);
    if (std::filesystem::path(arguments.project).extension() != ".yarngap")
        throw WrongUsage("-o names a project, which ends in .yarngap.");
    Rate rate;
    try {
        rate = Rate::parse(arguments.rate);
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
    const std::filesystem::path list = std::filesystem::absolute(arguments.list);
    std::vector<std::filesystem::path> folders(arguments.folders.begin(), arguments.folders.end());
    if (folders.empty()) folders.push_back(list.parent_path());
    for (const std::filesystem::path& folder : folders)
        if (!std::filesystem::is_directory(folder))
            throw Error("There is no folder " + folder.string() + ".");
    const EditList read = loadEdit(list, rate);
    OpenedEdit opened =
        openEdit(read, list, MediaFinder(folders, reader.stop()), *reader.known(), reader.stop());
    if (!arguments.before.empty())
        opened = withTreatment(std::move(opened), loadProject(arguments.before).shots);
    for (const std::string& problem : opened.problems)
        std::cerr << problem << '\n';
    if (opened.shots.empty()) throw Error("No event of " + list.string() + " could be opened.");
    Project project;
    project.name = read.title.empty() ? list.stem().string() : read.title;
    project.shots = std::move(opened.shots);
    InputFiles inputs;
    inputs.add(list);
    inputs.refuse({arguments.project});
    saveProject(project, arguments.project);
    std::cout << arguments.project << ": " << project.shots.size() << " shots of " << read.events.size()
              << " events\n";
    return done;
}

ExitStatus handBackShots(const HandBackArguments& arguments, const Reader& reader) {
    refuseOtherThanList(arguments.list);
    const Project project = loadProject(arguments.project);
    HandBackOptions options{.pattern = arguments.pattern,
                            .handles = arguments.handles,
                            .settings = settingsFor(arguments),
                            .replace = arguments.replace};
    const HandedBack back =
        handBack(chosenShots(project, arguments.shots), options, *reader.known(), reader.stop());
    for (const std::string& note : back.notes)
        std::cerr << note << '\n';
    InputFiles inputs;
    inputs.add(arguments.project);
    for (const Shot& shot : project.shots) {
        inputs.add(shot.media);
        inputs.add(shot.matte.pictures);
        if (shot.edit) inputs.add(shot.edit->list);
    }
    inputs.refuse({arguments.list});
    WorkMeans means{.vectors = std::make_shared<VectorStore>(cacheBytes, vectorFolderOfUser()),
                    .finished = frameFolderOfUser(),
                    .known = reader.known(),
                    .cacheBytes = cacheBytes};
    for (const RenderWork& work : back.works)
        renderWork(work, means, inputs, reader);
    writeText(arguments.list, returnedList(back, arguments.list));
    std::cout << arguments.list << ": " << back.list.events.size() << " events\n";
    return done;
}

} // namespace yarngap::cli
