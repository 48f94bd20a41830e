#include "core/project/interpretation_json.h"

#include "core/error.h"

#include <nlohmann/json.hpp>

#include <array>
#include <utility>

namespace yarngap {

namespace {

using Json = nlohmann::json;

constexpr std::size_t mostRuns = 100000;
constexpr std::array<std::pair<FieldUse, const char*>, 3> fieldUses{
    {{FieldUse::toFrames, "frames"}, {FieldUse::toFields, "fields"}, {FieldUse::removePulldown, "film"}}};
constexpr std::array<std::pair<PulldownRun::Kind, const char*>, 5> runKinds{
    {{PulldownRun::Kind::whole, "whole"},
     {PulldownRun::Kind::pulldown32, "3:2"},
     {PulldownRun::Kind::pulldown2332, "2:3:3:2"},
     {PulldownRun::Kind::shifted22, "2:2"},
     {PulldownRun::Kind::fields, "fields"}}};

Error wrongInterpretation(const char* field) {
    return Error(std::string("\"interpretation\" has a wrong \"") + field +
                 "\". Restore the project from a copy.");
}

std::string text(const Json& json, const char* field) {
    if (!json.is_string()) throw wrongInterpretation(field);
    return json.get<std::string>();
}

std::int64_t whole(const Json& json, std::int64_t least, std::int64_t most, const char* field) {
    if (!json.is_number_integer() || json.get<double>() < static_cast<double>(least) ||
        json.get<double>() > static_cast<double>(most))
        throw wrongInterpretation(field);
    return json.get<std::int64_t>();
}

template <typename Value, std::size_t N>
Value named(const std::array<std::pair<Value, const char*>, N>& table, const std::string& word,
            const char* field) {
    for (const auto& [value, name] : table)
        if (word == name) return value;
    throw wrongInterpretation(field);
}

template <typename Value, std::size_t N>
const char* nameIn(const std::array<std::pair<Value, const char*>, N>& table, Value wanted) {
    for (const auto& [value, name] : table)
        if (value == wanted) return name;
    return "";
}

bool order(const Json& json, const char* field) {
    const std::string word = text(json, field);
    if (word != "top" && word != "bottom") throw wrongInterpretation(field);
    return word == "top";
}

PulldownRun readRun(const Json& json) {
    constexpr const char* field = "pulldown";
    if (!json.is_array() || json.size() != 5) throw wrongInterpretation(field);
    constexpr std::int64_t most = 1'000'000'000;
    return {whole(json[0], 0, most, field), whole(json[1], 0, most, field),
            named(runKinds, text(json[2], field), field), order(json[3], field),
            static_cast<int>(whole(json[4], 0, 4, field))};
}

} // namespace

Interpretation readInterpretation(const Json& json) {
    if (!json.is_object()) throw wrongInterpretation("object");
    Interpretation in;
    if (const auto it = json.find("rate"); it != json.end()) in.rate = Rate::parse(text(*it, "rate"));
    if (const auto it = json.find("fields"); it != json.end())
        in.fields = named(fieldUses, text(*it, "fields"), "fields");
    if (const auto it = json.find("order"); it != json.end()) in.topFirst = order(*it, "order");
    if (const auto it = json.find("pulldown"); it != json.end()) {
        if (!it->is_array() || it->size() > mostRuns) throw wrongInterpretation("pulldown");
        for (const Json& run : *it)
            in.pulldown.push_back(readRun(run));
    }
    if (const auto it = json.find("evenTimes"); it != json.end()) {
        if (!it->is_boolean()) throw wrongInterpretation("evenTimes");
        in.evenTimes = it->get<bool>();
    }
    if (const auto it = json.find("pixelAspect"); it != json.end()) {
        in.pixelAspect = Rational::parse(text(*it, "pixelAspect"));
        if (*in.pixelAspect < Rational(1, 10) || *in.pixelAspect > Rational(10))
            throw wrongInterpretation("pixelAspect");
    }
    if (const auto it = json.find("range"); it != json.end()) {
        const std::string word = text(*it, "range");
        if (word != "full" && word != "limited") throw wrongInterpretation("range");
        in.fullRange = word == "full";
    }
    if (const auto it = json.find("matrix"); it != json.end())
        in.matrix = static_cast<int>(whole(*it, 0, 14, "matrix"));
    if (const auto it = json.find("rotation"); it != json.end()) {
        in.rotation = static_cast<int>(whole(*it, 0, 270, "rotation"));
        if (in.rotation % 90 != 0) throw wrongInterpretation("rotation");
    }
    return in;
}

Json writeInterpretation(const Interpretation& in) {
    Json json = Json::object();
    if (in.rate) json["rate"] = in.rate->toString();
    if (in.fields != FieldUse::asCoded) json["fields"] = nameIn(fieldUses, in.fields);
    if (in.topFirst) json["order"] = *in.topFirst ? "top" : "bottom";
    for (const PulldownRun& run : in.pulldown)
        json["pulldown"].push_back(
            {run.first, run.last, nameIn(runKinds, run.kind), run.topFirst ? "top" : "bottom", run.phase});
    if (in.evenTimes) json["evenTimes"] = true;
    if (in.pixelAspect) json["pixelAspect"] = in.pixelAspect->toString();
    if (in.fullRange) json["range"] = *in.fullRange ? "full" : "limited";
    if (in.matrix) json["matrix"] = *in.matrix;
    if (in.rotation != 0) json["rotation"] = in.rotation;
    return json;
}

} // namespace yarngap
