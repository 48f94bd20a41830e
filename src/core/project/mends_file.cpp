#include "core/project/mends_file.h"

#include "core/error.h"
#include "core/files/local_file.h"
#include "core/project/json_text.h"
#include "core/project/shot_fields.h"

#include <utility>

namespace yarngap {

std::string mendsText(const Mending& mending) {
    Json json = writeObject(mending, Json::object(), tellMending);
    if (mending.mends.empty()) json["mends"] = Json::array();
    return json.dump(1) + '\n';
}

Mending parseMends(std::string_view content, const std::string& where) {
    Json json = jsonFrom(content);
    if (json.is_discarded() || !json.is_object() || !json.contains("mends"))
        throw Error(where + " holds no mends. Write it as docs/formats.md says.");
    try {
        Json unknown;
        auto mending = readObject<Mending>(std::move(json), unknown, tellMending);
        validate(mending);
        return mending;
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
}

Mending loadMends(const std::filesystem::path& file) {
    constexpr std::int64_t most = 256 << 20;
    return parseMends(contentOf(file, most, "file of mends"), file.string());
}

} // namespace yarngap
