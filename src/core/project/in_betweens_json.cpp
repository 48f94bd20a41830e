#include "core/project/in_betweens_json.h"

#include "core/error.h"

#include <nlohmann/json.hpp>

namespace yarngap {

namespace {

using Json = nlohmann::json;

Error wrongSetting(const std::string& field) {
    return Error("The in-between settings have no proper " + field + ". Restore the project from a copy.");
}

/// Calls `take` with the words of a field, where there is one.
template <typename Take>
void words(const Json& json, const char* field, Take take) {
    const auto it = json.find(field);
    if (it == json.end()) return;
    if (!it->is_string()) throw wrongSetting(field);
    take(it->get<std::string>());
}

void number(const Json& json, const char* field, int most, int& value) {
    const auto it = json.find(field);
    if (it == json.end()) return;
    if (!it->is_number_integer() || it->get<std::int64_t>() < 0 || it->get<std::int64_t>() > most)
        throw wrongSetting(field);
    value = it->get<int>();
}

void flag(const Json& json, const char* field, bool& value) {
    const auto it = json.find(field);
    if (it == json.end()) return;
    if (!it->is_boolean()) throw wrongSetting(field);
    value = it->get<bool>();
}

} // namespace

Json writeInBetweens(const InBetweens& settings) {
    const SynthesisOptions& s = settings.synthesis;
    return {{"quality", name(settings.flow.quality)},
            {"finalQuality", name(settings.finalQuality)},
            {"stiffness", settings.flow.stiffness},
            {"analyseOn", name(settings.flow.analyseOn)},
            {"inFront", name(s.inFront)},
            {"sides", name(s.sides)},
            {"trustLimit", s.trustLimit},
            {"standIn", name(s.standIn)},
            {"evenTexture", s.evenTexture},
            {"bridgeRepeats", s.bridgeRepeats},
            {"bendPaths", s.bendPaths},
            {"keepGrain", s.keepGrain},
            {"linearLight", s.linearLight},
            {"shutterAngle", s.shutterAngle}};
}

InBetweens readInBetweens(const Json& json) {
    if (!json.is_object()) throw wrongSetting("form");
    InBetweens out;
    SynthesisOptions& s = out.synthesis;
    words(json, "quality", [&](const std::string& w) { out.flow.quality = parseFlowQuality(w); });
    words(json, "finalQuality", [&](const std::string& w) { out.finalQuality = parseFlowQuality(w); });
    words(json, "analyseOn", [&](const std::string& w) { out.flow.analyseOn = parseAnalyseOn(w); });
    words(json, "inFront", [&](const std::string& w) { s.inFront = parseInFront(w); });
    words(json, "sides", [&](const std::string& w) { s.sides = parseSides(w); });
    words(json, "standIn", [&](const std::string& w) { s.standIn = parseStandIn(w); });
    number(json, "stiffness", FlowOptions::stiffest, out.flow.stiffness);
    number(json, "trustLimit", 100, s.trustLimit);
    number(json, "shutterAngle", largestShutterAngle, s.shutterAngle);
    flag(json, "evenTexture", s.evenTexture);
    flag(json, "bridgeRepeats", s.bridgeRepeats);
    flag(json, "bendPaths", s.bendPaths);
    flag(json, "keepGrain", s.keepGrain);
    flag(json, "linearLight", s.linearLight);
    return out;
}

} // namespace yarngap
