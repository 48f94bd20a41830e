#include "core/project/time_map_json.h"

#include "core/project/shot_fields.h"

namespace yarngap {

namespace {

struct Map {
    TimeKeys keys;
};
constexpr auto tellMap = [](auto& fields, auto& map) {
    fields.list("timeMap", map.keys, mostKeys, tellTimeKey);
};

} // namespace

nlohmann::json writeKeys(const TimeKeys& keys) {
    Json json = writeObject(Map{keys}, Json::object(), tellMap);
    return keys.empty() ? Json::array() : std::move(json["timeMap"]);
}

TimeKeys readKeys(const nlohmann::json& json) {
    Json unknown;
    TimeKeys keys = readObject<Map>({{"timeMap", json}}, unknown, tellMap).keys;
    validateKeys(keys);
    return keys;
}

} // namespace yarngap
