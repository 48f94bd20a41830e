#include "core/project/matte_json.h"

#include "core/error.h"

#include <nlohmann/json.hpp>

namespace yarngap {

namespace {

using Json = nlohmann::json;

Error wrongMatte(const std::string& what) {
    return Error("The matte has no proper " + what + ". Restore the project from a copy.");
}

MatteKey readKey(const Json& json) {
    const auto frame = json.is_object() ? json.find("frame") : json.end();
    const auto points = json.is_object() ? json.find("points") : json.end();
    if (!json.is_object() || frame == json.end() || !frame->is_number_integer() || points == json.end() ||
        !points->is_array() || points->size() > Matte::mostPoints)
        throw wrongMatte("key");
    MatteKey key{frame->get<std::int64_t>(), {}};
    key.points.reserve(points->size());
    for (const Json& p : *points) {
        if (!p.is_array() || p.size() != 2 || !p[0].is_number() || !p[1].is_number())
            throw wrongMatte("point");
        key.points.push_back({p[0].get<double>(), p[1].get<double>()});
    }
    return key;
}

} // namespace

Json writeMatte(const Matte& matte, const std::filesystem::path& folder) {
    Json json{{"onTop", matte.onTop}};
    if (!matte.pictures.empty()) {
        const auto relative = matte.pictures.lexically_relative(folder);
        json["pictures"] = (relative.empty() ? matte.pictures : relative).generic_string();
        return json;
    }
    json["feather"] = matte.feather;
    json["keys"] = Json::array();
    for (const MatteKey& key : matte.keys) {
        Json points = Json::array();
        for (const MattePoint& p : key.points)
            points.push_back({p.x, p.y});
        json["keys"].push_back({{"frame", key.frame}, {"points", std::move(points)}});
    }
    return json;
}

Matte readMatte(const Json& json, const std::filesystem::path& folder) {
    if (!json.is_object()) throw wrongMatte("form");
    Matte matte;
    if (const auto it = json.find("onTop"); it != json.end()) {
        if (!it->is_boolean()) throw wrongMatte("order");
        matte.onTop = it->get<bool>();
    }
    if (const auto it = json.find("feather"); it != json.end()) {
        if (!it->is_number_integer() || it->get<std::int64_t>() < 0 ||
            it->get<std::int64_t>() > Matte::softest)
            throw wrongMatte("feather");
        matte.feather = it->get<int>();
    }
    if (const auto it = json.find("pictures"); it != json.end()) {
        if (!it->is_string()) throw wrongMatte("file of pictures");
        const auto name = it->get<std::string>();
        if (name.empty() || name.find('\0') != std::string::npos) throw wrongMatte("file of pictures");
        matte.pictures = (folder / name).lexically_normal();
    }
    if (const auto it = json.find("keys"); it != json.end()) {
        if (!it->is_array() || it->size() > Matte::mostKeys) throw wrongMatte("list of keys");
        matte.keys.reserve(it->size());
        for (const Json& key : *it)
            matte.keys.push_back(readKey(key));
    }
    validate(matte);
    return matte;
}

} // namespace yarngap
