#include "core/project/project.h"

#include "core/error.h"
#include "core/files/input_files.h"
#include "core/files/leftovers.h"
#include "core/files/local_file.h"
#include "core/files/locked_file.h"
#include "core/files/new_file.h"
#include "core/project/json_text.h"
#include "core/project/shot_fields.h"

namespace yarngap {

namespace {

constexpr std::int64_t largestFile = 64 << 20;
constexpr std::size_t mostShots = 10000;

/// Unknown fields of a shot or project, as they are kept in it.
std::string kept(const Json& unknown) {
    return unknown.empty() ? std::string() : unknown.dump();
}
Json unkept(const std::string& unknownFields) {
    return unknownFields.empty() ? Json::object() : Json::parse(unknownFields);
}

Shot readShot(Json json, const std::filesystem::path& folder, const std::string& where) {
    try {
        Json unknown;
        Shot shot = readObject<Shot>(std::move(json), unknown, tellShotIn(folder));
        validateShot(shot);
        if (shot.name.empty()) shot.name = shot.media.stem().string();
        shot.unknownFields = kept(unknown);
        return shot;
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
}

/// Version 1 had the quality beside the method, before there were other settings.
Json fromVersion1(Json project) {
    const auto shots = project.find("shots");
    if (shots == project.end() || !shots->is_array()) return project;
    for (Json& shot : *shots) {
        const auto quality = shot.is_object() ? shot.find("quality") : shot.end();
        if (!shot.is_object() || quality == shot.end()) continue;
        if (!shot.contains("inBetweens")) shot["inBetweens"] = {{"quality", *quality}};
        shot.erase("quality");
    }
    return project;
}

/// The text as an object of the present version. Throws Error.
Json currentForm(std::string_view content, const std::string& where) {
    Json json = jsonFrom(content);
    if (json.is_discarded() || !json.is_object() || !json.contains("yarngap"))
        throw Error(where + " is no Yarn Gap project, or is damaged. Restore it from a copy.");
    const Json& version = json["yarngap"];
    if (!version.is_number_integer() || version.get<std::int64_t>() < 1)
        throw Error(where + " has no readable version. Restore it from a copy.");
    if (version.get<std::int64_t>() > projectVersion)
        throw Error(where + " was saved by a newer version of Yarn Gap. Open it with that version.");
    if (version.get<std::int64_t>() == 1) json = fromVersion1(std::move(json));
    return json;
}

} // namespace

Project parseProject(std::string_view content, const std::filesystem::path& folder,
                     const std::string& where) {
    Json json = currentForm(content, where);
    Project project;
    if (const auto name = json.find("name"); name != json.end()) {
        if (!name->is_string())
            throw Error(where + ": \"name\" should be text. Restore the project from a copy.");
        project.name = name->get<std::string>();
    }
    if (const auto shots = json.find("shots"); shots != json.end()) {
        if (!shots->is_array() || shots->size() > mostShots)
            throw Error(where +
                        ": \"shots\" should be a list of at most 10,000. Restore the project from a copy.");
        std::size_t number = 0;
        for (Json& shot : *shots)
            project.shots.push_back(
                readShot(std::move(shot), folder, where + ", shot " + std::to_string(++number)));
    }
    for (const char* known : {"yarngap", "name", "shots"})
        json.erase(known);
    project.unknownFields = kept(json);
    return project;
}

namespace {

/// The text with each list of mere numbers on one line: paths have a list for every frame. No string holds a
/// line break as it is, so what follows "[" and one is never inside a string.
std::string withShortLists(const std::string& text) {
    std::string out;
    out.reserve(text.size());
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text.compare(i, 2, "[\n") == 0) {
            const std::size_t end = text.find_first_not_of("0123456789.eE+-, \n", i + 1);
            if (end != std::string::npos && text[end] == ']') {
                for (; i < end; ++i)
                    if (text[i] != '\n' && text[i] != ' ') out += text[i] == ',' ? ", " : text.substr(i, 1);
            }
        }
        out += text[i];
    }
    return out;
}

} // namespace

std::string projectText(const Project& project, const std::filesystem::path& folder) {
    Json json = unkept(project.unknownFields);
    json["yarngap"] = projectVersion;
    json["name"] = project.name;
    json["shots"] = Json::array();
    for (const Shot& shot : project.shots)
        json["shots"].push_back(writeObject(shot, unkept(shot.unknownFields), tellShotIn(folder)));
    std::string text = withShortLists(json.dump(2, ' ', false, Json::error_handler_t::replace)) + "\n";
    // What could not be opened again is not written.
    if (text.size() > static_cast<std::size_t>(largestFile))
        throw Error(
            "The project is larger than 64 MB, and could not be opened again. Save some of its shots in "
            "another project, or remove paths that are held or calmed.");
    return text;
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
