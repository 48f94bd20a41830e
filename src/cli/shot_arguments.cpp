#include "cli/shot_arguments.h"

#include "core/cleaning/found_decisions.h"
#include "core/files/local_file.h"
#include "core/media/numbered_names.h"
#include "core/media/picture_sequence.h"
#include "core/mending/doubt_list.h"
#include "core/project/json_text.h"
#include "core/project/mends_file.h"
#include "core/project/time_map_json.h"
#include "core/time/edl.h"
#include "core/time/map_text.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <charconv>
#include <utility>

namespace yarngap::cli {

namespace {

std::vector<std::string> split(const std::string& text, char at) {
    std::vector<std::string> parts;
    std::size_t begin = 0;
    while (true) {
        const std::size_t end = text.find(at, begin);
        parts.push_back(text.substr(begin, end - begin));
        if (end == std::string::npos) return parts;
        begin = end + 1;
    }
}

/// Frame numbers above 0 of a list like 116,240, in order; absent when nothing was given. Throws WrongUsage
/// with the sentence `reads`.
std::optional<std::vector<std::int64_t>> listed(const std::optional<std::string>& given, const char* reads) {
    if (!given) return std::nullopt;
    std::vector<std::int64_t> frames;
    if (*given == "none") return frames;
    for (const std::string& part : split(*given, ',')) {
        std::int64_t frame = 0;
        const auto [end, ec] = std::from_chars(part.data(), part.data() + part.size(), frame);
        if (ec != std::errc() || end != part.data() + part.size() || frame < 1) throw WrongUsage(reads);
        frames.push_back(frame);
    }
    std::sort(frames.begin(), frames.end());
    return frames;
}

/// The content of a list or map. Throws WrongUsage.
std::string givenContent(const std::string& file, const std::string& kind) {
    constexpr std::int64_t most = 16 << 20;
    try {
        return contentOf(file, most, kind);
    } catch (const Error& error) {
        throw WrongUsage("The " + kind + " cannot be read. " + error.what());
    }
}

/// FILE:EVENT taken apart; FILE alone means the first event.
std::pair<std::string, std::optional<int>> fileAndEvent(const std::string& given) {
    const auto colon = given.rfind(':');
    int number = 0;
    if (colon != std::string::npos) {
        const auto [end, ec] = std::from_chars(given.data() + colon + 1, given.data() + given.size(), number);
        if (ec == std::errc() && end == given.data() + given.size()) return {given.substr(0, colon), number};
    }
    return {given, std::nullopt};
}

/// What the event in `given`, FILE or FILE:EVENT, asks of a shot timed as `now`.
Timing timingFromEdl(const std::string& given, const Timing& now) {
    const auto [file, wanted] = fileAndEvent(given);
    const auto events =
        eventsFromEdl(givenContent(file, "edit decision list"), now.sourceRate, now.outputRate);
    for (const EdlEvent& event : events)
        if (!wanted || event.number == *wanted) return timingOf(event, now.sourceRate, now.outputRate);
    throw WrongUsage(wanted ? file + " has no video event " + std::to_string(*wanted) + "."
                            : file + " has no video event.");
}

} // namespace

void ShotArguments::addMatteTo(CLI::App& command) {
    command.add_option("--matte", matte,
                       "Pictures or video that are white where the subject is, frame by frame; subject and "
                       "background then move apart");
}

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
    command.add_option("--map", map, "Time map to follow, .csv or .json (see plan --write-map)");
    command.add_option("--edl", edl,
                       "Trim and speed of an event of an edit decision list: FILE or FILE:EVENT");
    command.add_option("--ramp", ramp,
                       "Another speed within, eased in and out: FROM-TO:SPEED[:EASE] in source frames");
    command.add_option("--freeze", freeze, "Stand still: FRAME:OUTPUT_FRAMES[:EASE]");
    command.add_flag("--there-and-back", thereAndBack, "Run there and back again");
    command.add_flag("--reverse", reverse, "Run backwards");
    command.add_option("--to-rate", toRate, "Frame rate of the result: 25, 29.97 or 24000/1001");
    command.add_option("--from", from, "First source frame used, counted from 0");
    command.add_option("--to", to, "Last source frame used, included");
    command.add_flag("--as-measured", asMeasured,
                     "Undo fields, pulldown, varying times and rotation as the pictures show them");
    command.add_option("--clean", clean,
                       "Put source frames right first: found, found:CERTAINTY (0 to 1), or a file of "
                       "decisions, see clean. --from, --to and all else then count what is left");
    command.add_option("--mends", mends,
                       "Gaps made otherwise, a file of mends in place of those of the shot");
    command.add_option("--method", method, "How in-betweens are made: sample, blend or flow (default flow)");
    command.add_option("--method-at", methodsAt,
                       "Another method for gaps: FIRST-LAST:METHOD; gap n lies after source frame n");
    addFindingsTo(command);
    addMatteTo(command);
    command.add_flag("--subject-below", subjectBelow, "The background covers the subject of the matte");
    inBetweens.addTo(command, true);
}

void ShotArguments::addFindingsTo(CLI::App& command) {
    command.add_option(
        "--cuts", cuts,
        "Source frames that begin a new scene, as 116,240, or none; nothing is made across a cut. "
        "By default the pictures are searched");
    command.add_option(
        "--repeats", repeats,
        "Source frames that show again the one before, as 5,9, or none; flow passes over them. By "
        "default the pictures are searched. With both given the file is not looked at first, and flow "
        "does not follow a shaken camera by its motion blur");
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

void ShotArguments::applyMap(Timing& timing) const {
    if (edl) timing = timingFromEdl(*edl, timing);
    if (map) {
        const std::string content = givenContent(*map, "time map");
        const bool json = std::filesystem::path(*map).extension() == ".json";
        const auto parsed = json ? jsonFrom(content) : nlohmann::json();
        if (parsed.is_discarded()) throw WrongUsage(*map + " is no JSON, or is damaged.");
        timing.keys = json ? readKeys(parsed) : keysFromCsv(content);
    }
    if (ramp) {
        const auto parts = split(*ramp, ':');
        const auto range = split(parts.at(0), '-');
        if (parts.size() < 2 || parts.size() > 3 || range.size() != 2)
            throw WrongUsage(
                "--ramp reads like 40-60:25% or 40-60:25%:10 (source frames, speed, frames to ease over).");
        timing.keys =
            withRamp(timing.asKeys(), {.from = Rational::parse(range[0]),
                                       .to = Rational::parse(range[1]),
                                       .step = timing.stepAt(parseSpeed(parts[1])),
                                       .ease = parts.size() > 2 ? Rational::parse(parts[2]) : Rational(0)});
    }
    if (freeze) {
        const auto parts = split(*freeze, ':');
        if (parts.size() < 2 || parts.size() > 3)
            throw WrongUsage(
                "--freeze reads like 50:48 or 50:48:8 (source frame, output frames, frames to ease over).");
        timing.keys =
            withFreeze(timing.asKeys(), Rational::parse(parts[0]), Rational::parse(parts[1]).round(),
                       parts.size() > 2 ? Rational::parse(parts[2]) : Rational(0));
    }
    if (thereAndBack) timing.keys = yarngap::thereAndBack(timing.asKeys(), timing.to);
    if (reverse) timing.keys = reversed(timing.asKeys(), timing.from, timing.to);
}

InputFiles ShotArguments::inputs() const {
    InputFiles files;
    const auto addMedia = [&](const std::filesystem::path& media) {
        files.add(media);
        if (!isPictureFile(media)) return;
        try {
            ReadingThread reading;
            for (const auto& [number, picture] : filesOf(media, reading).files)
                files.add(picture);
        } catch (const Error&) {
            // It cannot be opened, and whoever tries tells why.
        }
    };
    addMedia(input);
    if (std::filesystem::path(input).extension() == ".yarngap")
        for (const Shot& of : loadProject(input).shots) {
            addMedia(of.media);
            addMedia(of.matte.pictures);
        }
    if (matte) addMedia(*matte);
    if (map) files.add(*map);
    if (edl) files.add(fileAndEvent(*edl).first);
    if (const auto given = cleaning().file) files.add(*given);
    if (mends) files.add(*mends);
    return files;
}

std::string ShotArguments::forOneShot() const {
    const std::initializer_list<std::pair<const char*, bool>> options{
        {"--shot", !shot.empty()},
        {"--speed", speed.has_value()},
        {"--length", length.has_value()},
        {"--every-frame", everyFrame},
        {"--same-length", sameLength},
        {"--map", map.has_value()},
        {"--edl", edl.has_value()},
        {"--ramp", ramp.has_value()},
        {"--freeze", freeze.has_value()},
        {"--there-and-back", thereAndBack},
        {"--reverse", reverse},
        {"--from", from.has_value()},
        {"--to", to.has_value()},
        {"--method-at", !methodsAt.empty()},
        {"--cuts", cuts.has_value()},
        {"--repeats", repeats.has_value()},
        {"--clean", clean && !cleaning().certainty},
        {"--mends", mends.has_value()}};
    for (const auto& [option, given] : options)
        if (given) return option;
    return {};
}

std::optional<std::vector<std::int64_t>> ShotArguments::cutGaps() const {
    auto gaps = listed(cuts, "--cuts reads like 116,240 (first frames of scenes, in order) or none.");
    if (gaps)
        for (std::int64_t& gap : *gaps)
            --gap; // the gap before the first frame
    return gaps;
}

std::optional<std::vector<std::int64_t>> ShotArguments::repeatedFrames() const {
    return listed(repeats, "--repeats reads like 5,9 (frames that show again the one before) or none.");
}

double doubtLimitFrom(const std::string& text) {
    constexpr std::string_view word = "auto";
    if (text == word) return usualDoubtLimit;
    const std::string number = text.starts_with(std::string(word) + ':') ? text.substr(word.size() + 1) : "";
    try {
        const double limit = Rational::parse(number).toDouble();
        if (limit >= 0 && limit <= 1) return limit;
    } catch (const Error&) {
        // told below
    }
    throw WrongUsage("--mend reads like auto or auto:0.4, with a doubt from 0 to 1; \"" + text +
                     "\" cannot be meant.");
}

ShotArguments::Cleaning ShotArguments::cleaning() const {
    if (!clean) return {};
    constexpr std::string_view found = "found";
    if (*clean == found) return {{}, usualCertainty};
    if (!clean->starts_with(std::string(found) + ':')) return {*clean, {}};
    const std::string text = clean->substr(found.size() + 1);
    try {
        const double certainty = Rational::parse(text).toDouble();
        if (certainty >= 0 && certainty <= 1) return {{}, certainty};
    } catch (const Error&) {
        // told below
    }
    throw WrongUsage("--clean reads like found, found:0.9 or decisions.json; \"" + text +
                     "\" is no certainty from 0 to 1.");
}

void ShotArguments::applyMethods(Shot& base) const {
    try {
        inBetweens.applyTo(base.inBetweens);
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
    if (matte) {
        std::error_code ec;
        const bool pattern = matte->find('#') != std::string::npos;
        if (!pattern && !std::filesystem::is_regular_file(*matte, ec))
            throw WrongUsage("The matte " + *matte +
                             " cannot be read. Name one of its pictures, or a video.");
        base.matte = {.keys = {}, .pictures = std::filesystem::absolute(*matte, ec)};
    }
    if (subjectBelow) base.matte.onTop = false;
    if (mends) base.mending = loadMends(*mends);
    if (method) {
        base.method = parseMethod(*method);
        base.methodStretches.clear();
    }
    for (const std::string& given : methodsAt) {
        const auto parts = split(given, ':');
        const auto range = split(parts.at(0), '-');
        try {
            const std::int64_t first = Rational::parse(range.front()).floor();
            const std::int64_t last = Rational::parse(range.back()).floor();
            if (parts.size() != 2 || range.size() > 2 || last < first)
                throw WrongUsage("--method-at reads like 40-60:blend or 41:sample.");
            base.methodStretches =
                withMethodOn(base.methodStretches, first, last, parseMethod(parts[1]), base.method);
        } catch (const WrongUsage&) {
            throw;
        } catch (const Error& error) {
            throw WrongUsage(error.what());
        }
    }
}

Timing ShotArguments::timing(const Shot& base, const MediaFacts& facts) const {
    const auto inside = [&](std::optional<std::int64_t> frame, const char* option) {
        if (frame && (*frame < 0 || *frame >= facts.frames))
            throw WrongUsage(std::string(option) + " " + std::to_string(*frame) + " is outside " +
                             facts.path.string() + ", which has frames 0 to " +
                             std::to_string(facts.frames - 1) + ".");
    };
    inside(from, "--from");
    inside(to, "--to");
    if (from.value_or(base.from.value_or(0)) > to.value_or(base.to.value_or(facts.frames - 1)))
        throw WrongUsage("--from must not come after --to.");
    try {
        Timing timing = base.timing(facts.rate, facts.frames);
        if (from || to) timing = withTrim(timing, from.value_or(timing.from), to.value_or(timing.to));
        if (toRate) timing = withOutputRate(timing, Rate::parse(*toRate));
        if (speed) timing = withSpeed(timing, parseSpeed(*speed));
        if (length) timing = withLengthText(timing, *length);
        if (everyFrame) timing = withEveryFrame(timing);
        if (sameLength) timing = withSpeed(timing, 1);
        applyMap(timing);
        validate(timing);
        return timing;
    } catch (const WrongUsage&) {
        throw;
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
}

} // namespace yarngap::cli
