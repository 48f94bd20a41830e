#include "core/project/finish_file.h"

#include "core/error.h"
#include "core/files/local_file.h"
#include "core/project/finish_fields.h"
#include "core/project/json_text.h"

#include <utility>

namespace yarngap {

namespace {

constexpr std::int64_t mostBytes = 256 << 20;

Json objectFrom(std::string_view content, const std::string& where, const char* what) {
    Json json = jsonFrom(content);
    if (json.is_discarded() || !json.is_object())
        throw Error(where + " holds no " + what + ". Write it as docs/formats.md says.");
    return json;
}

} // namespace

std::string finishText(const Finish& finish) {
    return writeObject(finish, Json::object(), tellFinish).dump(1) + '\n';
}

Finish parseFinish(std::string_view content, const std::string& where) {
    Json json = objectFrom(content, where, "finish");
    try {
        Json unknown;
        auto finish = readObject<Finish>(std::move(json), unknown, tellFinish);
        if (!unknown.empty())
            throw Error('"' + unknown.begin().key() +
                        "\" is no part of a finish. docs/formats.md lists them.");
        validate(finish);
        return finish;
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
}

Finish loadFinish(const std::filesystem::path& file) {
    return parseFinish(contentOf(file, mostBytes, "finish"), file.string());
}

std::vector<ToneKey> parseTone(std::string_view content, const std::string& where) {
    Json json = objectFrom(content, where, "tone");
    try {
        Json unknown;
        Finish finish;
        if (json.contains("tone"))
            finish = readObject<Finish>(std::move(json), unknown, tellFinish);
        else
            finish.tones = {readObject<ToneKey>(std::move(json), unknown, tellTone)};
        if (!unknown.empty())
            throw Error('"' + unknown.begin().key() + "\" is no part of a tone. docs/formats.md lists them.");
        validate(finish);
        return finish.tones;
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
}

std::vector<ToneKey> loadTone(const std::filesystem::path& file) {
    return parseTone(contentOf(file, mostBytes, "tone"), file.string());
}

} // namespace yarngap
