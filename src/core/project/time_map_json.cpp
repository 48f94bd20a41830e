#include "core/project/time_map_json.h"

#include "core/error.h"
#include "core/time/map_text.h"

#include <nlohmann/json.hpp>

namespace yarngap {

nlohmann::json writeKeys(const TimeKeys& keys) {
    auto list = nlohmann::json::array();
    for (const TimeKey& key : keys) {
        nlohmann::json entry{{"output", key.output.toString()}, {"position", key.position.toString()}};
        if (key.after != Segment::constant) entry["segment"] = std::string(name(key.after));
        if (key.speed) entry["speed"] = key.speed->toString();
        list.push_back(std::move(entry));
    }
    return list;
}

TimeKeys readKeys(const nlohmann::json& json) {
    if (!json.is_array() || json.size() > mostKeys)
        throw Error("\"timeMap\" should be a list of at most 100,000 keys. Restore it from a copy.");
    TimeKeys keys;
    for (const auto& entry : json) {
        const std::string where = "Key " + std::to_string(keys.size() + 1) + " of the time map: ";
        const auto field = [&](const char* name) -> std::string {
            const auto it = entry.is_object() ? entry.find(name) : entry.end();
            if (!entry.is_object() || it == entry.end()) return {};
            if (!it->is_string())
                throw Error(where + "\"" + name + "\" should be text. Restore it from a copy.");
            return it->template get<std::string>();
        };
        try {
            TimeKey key;
            key.output = Rational::parse(field("output"));
            key.position = Rational::parse(field("position"));
            if (const auto segment = field("segment"); !segment.empty()) key.after = parseSegment(segment);
            if (const auto speed = field("speed"); !speed.empty()) key.speed = Rational::parse(speed);
            keys.push_back(key);
        } catch (const Error& error) {
            throw Error(where + error.what());
        }
    }
    validateKeys(keys);
    return keys;
}

} // namespace yarngap
