#include "core/project/preset.h"

#include "core/error.h"
#include "core/project/in_betweens_json.h"
#include "core/project/json_text.h"
#include "core/time/map_text.h"

#include <nlohmann/json.hpp>

namespace yarngap {

namespace {

using Json = nlohmann::json;

std::string words(const Json& json, const char* name) {
    const auto it = json.find(name);
    if (it == json.end() || !it->is_string())
        throw Error("This preset is damaged. Save it again from a shot.");
    return it->get<std::string>();
}

Rational number(const Json& json, const char* name) {
    return Rational::parse(words(json, name));
}

} // namespace

Preset presetOf(const Shot& shot, const Timing& timing) {
    Preset preset{.speed = timing.speed, .keys = {}, .method = shot.method, .inBetweens = shot.inBetweens};
    const Rational frames(timing.sourceFrames());
    for (std::size_t i = 0; i < timing.keys.size(); ++i) {
        const TimeKey& key = timing.keys[i];
        Preset::Key kept{.place = (key.position - Rational(timing.from)) / frames, .through = {}};
        if (key.speed) kept.through = timing.speedOf(*key.speed);
        if (i + 1 < timing.keys.size()) {
            const Rational length = timing.keys[i + 1].output - key.output;
            const Rational way = timing.keys[i + 1].position - key.position;
            kept.after = way == Rational(0) ? Segment::hold : key.after;
            if (kept.after == Segment::hold)
                kept.seconds = length / timing.outputRate.value();
            else
                kept.speed = timing.speedOf(way / length);
        }
        preset.keys.push_back(kept);
    }
    return preset;
}

Timing withPreset(const Preset& preset, Timing timing) {
    if (preset.keys.empty()) return withSpeed(timing, preset.speed);
    const Rational frames(timing.sourceFrames());
    TimeKeys keys;
    for (std::size_t i = 0; i < preset.keys.size(); ++i) {
        const Preset::Key& kept = preset.keys[i];
        TimeKey key{0, Rational(timing.from) + Rational((kept.place * frames).round()), kept.after, {}};
        if (kept.through) key.speed = timing.stepAt(*kept.through);
        if (i > 0) {
            const Preset::Key& before = preset.keys[i - 1];
            const TimeKey& last = keys.back();
            const Rational way = key.position - last.position;
            Rational length = before.seconds * timing.outputRate.value();
            if (before.after != Segment::hold) {
                const Rational step = timing.stepAt(before.speed);
                if (step == Rational(0) || way / step <= Rational(0))
                    throw Error("This shot is too short for that preset; its keys would fall together.");
                length = way / step;
                if (before.after == Segment::eased) length = landedLength(last.output, length);
            }
            key.output = last.output + length;
        }
        keys.push_back(key);
    }
    timing.keys = std::move(keys);
    validate(timing);
    return timing;
}

std::string presetText(const Preset& preset) {
    Json json{{"speed", preset.speed.toString()},
              {"method", keyOf(preset.method)},
              {"inBetweens", writeInBetweens(preset.inBetweens)},
              {"keys", Json::array()}};
    for (const Preset::Key& key : preset.keys) {
        Json entry{{"place", key.place.toString()},
                   {"segment", std::string(name(key.after))},
                   {"speed", key.speed.toString()},
                   {"seconds", key.seconds.toString()}};
        if (key.through) entry["through"] = key.through->toString();
        json["keys"].push_back(std::move(entry));
    }
    return json.dump();
}

Preset parsePreset(std::string_view text) {
    const Json json = jsonFrom(text);
    if (json.is_discarded() || !json.is_object() || !json.contains("keys") || !json["keys"].is_array() ||
        json["keys"].size() > mostKeys)
        throw Error("This preset is damaged. Save it again from a shot.");
    Preset preset;
    preset.speed = number(json, "speed");
    preset.method = parseMethod(words(json, "method"));
    // Earlier versions kept the quality alone.
    if (json.contains("inBetweens"))
        preset.inBetweens = readInBetweens(json["inBetweens"]);
    else
        preset.inBetweens.flow.quality = parseFlowQuality(words(json, "quality"));
    for (const Json& entry : json["keys"]) {
        Preset::Key key{.place = number(entry, "place"),
                        .after = parseSegment(words(entry, "segment")),
                        .speed = number(entry, "speed"),
                        .seconds = number(entry, "seconds"),
                        .through = {}};
        if (entry.contains("through")) key.through = number(entry, "through");
        preset.keys.push_back(key);
    }
    return preset;
}

} // namespace yarngap
