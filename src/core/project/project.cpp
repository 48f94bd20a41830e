#include "core/project/project.h"

#include "core/error.h"
#include "core/files/input_files.h"
#include "core/files/leftovers.h"
#include "core/files/local_file.h"
#include "core/files/locked_file.h"
#include "core/files/new_file.h"
#include "core/project/in_betweens_json.h"
#include "core/project/interpretation_json.h"
#include "core/project/json_text.h"
#include "core/project/matte_json.h"
#include "core/project/time_map_json.h"

#include <nlohmann/json.hpp>

#include <algorithm>

namespace yarngap {

namespace {

using Json = nlohmann::json;

constexpr std::int64_t largestFile = 64 << 20;
constexpr std::size_t mostShots = 10000;

std::string text(const Json& object, const char* field, const std::string& where) {
    const auto it = object.find(field);
    if (it == object.end()) return {};
    if (!it->is_string())
        throw Error(where + ": \"" + field + "\" should be text. Restore the project from a copy.");
    return it->get<std::string>();
}

std::optional<std::int64_t> frame(const Json& object, const char* field, const std::string& where) {
    const auto it = object.find(field);
    if (it == object.end()) return std::nullopt;
    if (!it->is_number_integer() || it->get<double>() < 0 || it->get<double>() > 1e9)
        throw Error(where + ": \"" + field +
                    "\" should be a frame number from 0. Restore the project from a copy.");
    return it->get<std::int64_t>();
}

/// Fields of `object` other than the known ones, as text; empty when there are none.
std::string leftOver(Json object, std::initializer_list<const char*> knownFields) {
    for (const char* field : knownFields)
        object.erase(field);
    return object.empty() ? std::string() : object.dump();
}

std::vector<MethodStretch> readMethodStretches(const Json& json) {
    const Error wrong(
        "\"methodStretches\" should be a list of {from, to, method} in order, none overlapping. "
        "Restore it from a copy.");
    if (!json.is_array() || json.size() > mostKeys) throw wrong;
    std::vector<MethodStretch> stretches;
    for (const Json& entry : json) {
        const auto number = [&](const char* name) -> std::int64_t {
            const auto it = entry.is_object() ? entry.find(name) : entry.end();
            if (!entry.is_object() || it == entry.end() || !it->is_number_integer()) throw wrong;
            return it->get<std::int64_t>();
        };
        const MethodStretch stretch{number("from"), number("to"),
                                    parseMethod(text(entry, "method", "A method stretch"))};
        if (stretch.last < stretch.first || stretch.first < -1 ||
            (!stretches.empty() && stretch.first <= stretches.back().last))
            throw wrong;
        stretches.push_back(stretch);
    }
    return stretches;
}

std::vector<Take> readTakes(const Json& json) {
    const Error wrong("The takes are not a list of named settings. Restore the project from a copy.");
    if (!json.is_array() || json.size() > mostTakes) throw wrong;
    std::vector<Take> takes;
    takes.reserve(json.size());
    for (const Json& entry : json) {
        if (!entry.is_object() || !entry.contains("inBetweens")) throw wrong;
        takes.push_back({text(entry, "name", "A take"), parseMethod(text(entry, "method", "A take")),
                         readInBetweens(entry["inBetweens"])});
        if (takes.back().name.empty()) throw wrong;
    }
    return takes;
}

Shot readShot(const Json& json, const std::filesystem::path& folder, const std::string& where) {
    if (!json.is_object()) throw Error(where + " is not a shot. Restore the project from a copy.");
    const std::string media = text(json, "media", where);
    if (media.empty() || media.find('\0') != std::string::npos)
        throw Error(where + " names no media file. Restore the project from a copy.");
    Shot shot = shotOf((folder / media).lexically_normal());
    if (const std::string given = text(json, "name", where); !given.empty()) shot.name = given;
    shot.identity = text(json, "identity", where);
    shot.from = frame(json, "from", where);
    shot.to = frame(json, "to", where);
    try {
        if (const auto speed = text(json, "speed", where); !speed.empty())
            shot.speed = Rational::parse(speed);
        if (const auto rate = text(json, "outputRate", where); !rate.empty())
            shot.outputRate = Rate::parse(rate);
        if (const auto method = text(json, "method", where); !method.empty())
            shot.method = parseMethod(method);
        if (const auto found = json.find("methodStretches"); found != json.end())
            shot.methodStretches = readMethodStretches(*found);
        if (const auto quality = text(json, "quality", where); !quality.empty())
            shot.inBetweens.flow.quality = parseFlowQuality(quality); // as earlier versions wrote it
        if (const auto found = json.find("inBetweens"); found != json.end())
            shot.inBetweens = readInBetweens(*found);
        if (const auto found = json.find("takes"); found != json.end()) shot.takes = readTakes(*found);
        if (const auto found = json.find("matte"); found != json.end())
            shot.matte = readMatte(*found, folder);
        if (const auto found = json.find("interpretation"); found != json.end())
            shot.interpretation = readInterpretation(*found);
        if (const auto found = json.find("timeMap"); found != json.end()) shot.keys = readKeys(*found);
        validate({.sourceRate = Rate(), .outputRate = Rate(), .from = 0, .to = 0, .speed = shot.speed});
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
    shot.unknownFields = leftOver(json, {"media", "name", "from", "to", "speed", "outputRate", "method",
                                         "quality", "interpretation", "identity", "timeMap",
                                         "methodStretches", "inBetweens", "takes", "matte"});
    return shot;
}

Json baseOf(const std::string& unknownFields) {
    return unknownFields.empty() ? Json::object() : Json::parse(unknownFields);
}

Json writeShot(const Shot& shot, const std::filesystem::path& folder) {
    Json json = baseOf(shot.unknownFields);
    const auto relative = shot.media.lexically_relative(folder);
    json["media"] = (relative.empty() ? shot.media : relative).generic_string();
    json["name"] = shot.name;
    if (!shot.identity.empty()) json["identity"] = shot.identity;
    if (shot.from) json["from"] = *shot.from;
    if (shot.to) json["to"] = *shot.to;
    json["speed"] = shot.speed.toString();
    if (!shot.keys.empty()) json["timeMap"] = writeKeys(shot.keys);
    if (shot.outputRate) json["outputRate"] = shot.outputRate->toString();
    json["method"] = keyOf(shot.method);
    for (const MethodStretch& s : shot.methodStretches)
        json["methodStretches"].push_back({{"from", s.first}, {"to", s.last}, {"method", keyOf(s.method)}});
    json["inBetweens"] = writeInBetweens(shot.inBetweens);
    for (const Take& take : shot.takes)
        json["takes"].push_back({{"name", take.name},
                                 {"method", keyOf(take.method)},
                                 {"inBetweens", writeInBetweens(take.inBetweens)}});
    if (!shot.matte.empty()) json["matte"] = writeMatte(shot.matte, folder);
    if (!shot.interpretation.isDefault()) json["interpretation"] = writeInterpretation(shot.interpretation);
    return json;
}

} // namespace

Project parseProject(std::string_view content, const std::filesystem::path& folder,
                     const std::string& where) {
    const Json json = jsonFrom(content);
    if (json.is_discarded() || !json.is_object() || !json.contains("yarngap"))
        throw Error(where + " is no Yarn Gap project, or is damaged. Restore it from a copy.");
    const Json& version = json["yarngap"];
    if (!version.is_number_integer() || version.get<std::int64_t>() < 1)
        throw Error(where + " has no readable version. Restore it from a copy.");
    if (version.get<std::int64_t>() > projectVersion)
        throw Error(where + " was saved by a newer version of Yarn Gap. Open it with that version.");
    Project project;
    project.name = text(json, "name", where);
    if (const auto shots = json.find("shots"); shots != json.end()) {
        if (!shots->is_array() || shots->size() > mostShots)
            throw Error(where +
                        ": \"shots\" should be a list of at most 10,000. Restore the project from a copy.");
        for (std::size_t i = 0; i < shots->size(); ++i)
            project.shots.push_back(readShot((*shots)[i], folder, where + ", shot " + std::to_string(i + 1)));
    }
    project.unknownFields = leftOver(json, {"yarngap", "name", "shots"});
    return project;
}

std::string projectText(const Project& project, const std::filesystem::path& folder) {
    Json json = baseOf(project.unknownFields);
    json["yarngap"] = projectVersion;
    json["name"] = project.name;
    json["shots"] = Json::array();
    for (const Shot& shot : project.shots)
        json["shots"].push_back(writeShot(shot, folder));
    return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Project loadProject(const std::filesystem::path& file) {
    return loadEdition(file).project;
}

LoadedProject loadEdition(const std::filesystem::path& file) {
    std::error_code ec;
    const auto folder = std::filesystem::absolute(file, ec).parent_path();
    removeLeftovers(folder);
    const auto edition = editionOf(file);
    return {parseProject(contentOf(file, largestFile, "project"), folder, file.string()), edition};
}

void saveProject(const Project& project, const std::filesystem::path& file) {
    std::error_code ec;
    const auto folder = std::filesystem::absolute(file, ec).parent_path();
    InputFiles media;
    for (const Shot& shot : project.shots) {
        media.add(shot.media);
        media.add(shot.matte.pictures);
    }
    media.refuse({file});
    writeWhole(file, projectText(project, folder));
}

FileEdition saveOver(const Project& project, const std::filesystem::path& file,
                     const std::optional<FileEdition>& known) {
    // Whoever else saves it waits, and then finds that it is another file.
    const LockedFile lock(file);
    const auto now = editionOf(file);
    if (now && !(known && now->sameContent(*known)))
        throw ChangedMeanwhile(
            file.string() +
            " was changed by another program since you opened it. Save under another name, or "
            "save over it.");
    saveProject(project, file);
    return editionOf(file).value_or(FileEdition{});
}

} // namespace yarngap
