#include "core/project/cleanup_file.h"

#include "core/error.h"
#include "core/files/local_file.h"
#include "core/project/json_text.h"
#include "core/project/shot_fields.h"

#include <algorithm>
#include <utility>

namespace yarngap {

std::string cleanupText(const Cleanup& cleanup) {
    Json json = writeObject(cleanup, Json::object(), tellCleanup);
    if (cleanup.empty()) json["decisions"] = Json::array();
    return json.dump(1) + '\n';
}

Cleanup parseCleanup(std::string_view content, const std::string& where) {
    Json json = jsonFrom(content);
    if (json.is_discarded() || !json.is_object() || !json.contains("decisions"))
        throw Error(where + " holds no decisions about source frames. Write it anew with yarngap-cli clean.");
    try {
        Json unknown;
        auto cleanup = readObject<Cleanup>(std::move(json), unknown, tellCleanup);
        std::stable_sort(cleanup.decisions.begin(), cleanup.decisions.end(),
                         [](const CleanupDecision& a, const CleanupDecision& b) {
                             const auto place = [](const CleanupDecision& d) {
                                 return std::pair(d.frame, d.kind == CleanupKind::putIn);
                             };
                             return place(a) < place(b);
                         });
        validate(cleanup);
        return cleanup;
    } catch (const Error& error) {
        throw Error(where + ": " + error.what());
    }
}

Cleanup loadCleanup(const std::filesystem::path& file) {
    constexpr std::int64_t most = 256 << 20;
    return parseCleanup(contentOf(file, most, "file of decisions"), file.string());
}

} // namespace yarngap
