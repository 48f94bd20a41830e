#include "cli/shot_arguments.h"

#include <charconv>

namespace yarngap::cli {

void ShotArguments::addTo(CLI::App& command) {
    auto* speedOption = command.add_option("--speed", speed, "Speed in percent, 0.1% to 10000%: 25%");
    auto* lengthOption =
        command.add_option("--length", length, "Length of the result: 8s, 192f or 00:00:08:00");
    auto* every = command.add_flag("--every-frame", everyFrame,
                                   "Show each source frame exactly once at the output rate");
    auto* same = command.add_flag("--same-length", sameLength, "Keep the running time (with --to-rate)");
    const std::initializer_list<CLI::Option*> exclusive{speedOption, lengthOption, every, same};
    for (auto* a : exclusive)
        for (auto* b : exclusive)
            if (a != b) a->excludes(b);
    command.add_option("--to-rate", toRate, "Frame rate of the result: 25, 29.97 or 24000/1001");
    command.add_option("--from", from, "First source frame used, counted from 0");
    command.add_option("--to", to, "Last source frame used, included");
    command.add_flag("--as-measured", asMeasured,
                     "Undo fields, pulldown, varying times and rotation as the pictures show them");
    command.add_option("--method", method, "How in-betweens are made: sample, blend or flow (default flow)");
}

Shot ShotArguments::baseShot() const {
    const std::filesystem::path path = input;
    if (path.extension() != ".yarngap") {
        if (!shot.empty())
            throw WrongUsage("--shot names a shot of a project, but " + input + " is a media file.");
        return shotOf(path);
    }
    const Project project = loadProject(path);
    if (project.shots.empty()) throw Error(input + " has no shots. Add one in the window first.");
    if (shot.empty() && project.shots.size() == 1) return project.shots.front();
    std::size_t number = 0;
    std::from_chars(shot.data(), shot.data() + shot.size(), number);
    std::string names;
    for (std::size_t i = 0; i < project.shots.size(); ++i) {
        if (project.shots[i].name == shot || i + 1 == number) return project.shots[i];
        names += (i ? ", " : "") + project.shots[i].name;
    }
    throw WrongUsage(input + " has several shots (" + names + "). Choose one with --shot NAME.");
}

Timing ShotArguments::timing(const Shot& base, const MediaFacts& facts) const {
    Shot wanted = base;
    const auto inside = [&](std::optional<std::int64_t> frame, const char* option) {
        if (frame && (*frame < 0 || *frame >= facts.frames))
            throw WrongUsage(std::string(option) + " " + std::to_string(*frame) + " is outside " +
                             facts.path.string() + ", which has frames 0 to " +
                             std::to_string(facts.frames - 1) + ".");
    };
    inside(from, "--from");
    inside(to, "--to");
    if (from) wanted.from = from;
    if (to) wanted.to = to;
    if (wanted.from.value_or(0) > wanted.to.value_or(facts.frames - 1))
        throw WrongUsage("--from must not come after --to.");
    try {
        if (toRate) wanted.outputRate = Rate::parse(*toRate);
        Timing timing = wanted.timing(facts.rate, facts.frames);
        if (speed) timing = withSpeed(timing, parseSpeed(*speed));
        if (length) timing = withLengthText(timing, *length);
        if (everyFrame) timing = withEveryFrame(timing);
        if (sameLength) timing = withSpeed(timing, 1);
        validate(timing);
        return timing;
    } catch (const WrongUsage&) {
        throw;
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
}

} // namespace yarngap::cli
