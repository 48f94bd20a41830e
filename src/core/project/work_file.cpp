#include "core/project/work_file.h"

#include "core/error.h"
#include "core/files/local_file.h"
#include "core/project/json_text.h"
#include "core/project/render_fields.h"

namespace yarngap {

namespace {

constexpr int workVersion = 1;
constexpr const char* workTag = "yarngapWork";
constexpr const char* settingsTag = "yarngapRender";

/// The object in `text` that has a version under `tag`. Throws Error.
Json taggedObject(std::string_view text, const char* tag, const std::string& where) {
    Json json = jsonFrom(text);
    if (json.is_discarded() || !json.is_object() || !json.contains(tag) || !json[tag].is_number_integer())
        throw Error(where + " is damaged, or not what it should be. Make it again.");
    if (json[tag].get<std::int64_t>() != workVersion)
        throw Error(where +
                    " was written by another version of Yarn Gap. Use that version, or make it again.");
    json.erase(tag);
    return json;
}

void refuseUnfit(const RenderWork& work) {
    if (work.shots.empty()) throw Error("there are no shots.");
    if (work.targets.empty()) throw Error("there is no file to be written.");
    for (const WorkShot& of : work.shots) {
        validateShot(of.shot);
        validate(of.timing);
        if (of.last && *of.last < of.first) throw Error(of.shot.name + " ends before it begins.");
    }
    for (const RenderTarget& target : work.targets) {
        refuseEnding(target.file, target.format.format);
        validate(target.format);
    }
    validate(work.settings);
}

std::string dumped(const Json& json) {
    return json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

} // namespace

std::string workText(const RenderWork& work, const std::filesystem::path& folder) {
    Json json = writeObject(work, Json::object(), tellWorkIn(folder));
    json[workTag] = workVersion;
    return dumped(json);
}

RenderWork parseWork(std::string_view text, const std::filesystem::path& folder, const std::string& where) {
    Json json = taggedObject(text, workTag, where);
    try {
        Json unknown;
        RenderWork work = readObject<RenderWork>(std::move(json), unknown, tellWorkIn(folder));
        refuseUnfit(work);
        return work;
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
}

std::string renderSettingsText(const RenderSettings& settings) {
    Json json = writeObject(settings, Json::object(), tellRenderSettings);
    json[settingsTag] = workVersion;
    return dumped(json);
}

RenderSettings parseRenderSettings(std::string_view text, const std::string& where) {
    Json json = taggedObject(text, settingsTag, where);
    try {
        Json unknown;
        RenderSettings settings = readObject<RenderSettings>(std::move(json), unknown, tellRenderSettings);
        validate(settings);
        return settings;
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
}

RenderSettings loadRenderSettings(const std::filesystem::path& file) {
    constexpr std::int64_t most = 1 << 20;
    return parseRenderSettings(contentOf(file, most, "preset"), file.string());
}

} // namespace yarngap
