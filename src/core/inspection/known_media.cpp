#include "core/inspection/known_media.h"

#include "core/files/kept_value.h"
#include "core/inspection/known_fields.h"
#include "core/inspection/proposals.h"
#include "core/media/frame_source.h"
#include "core/media/interpreted_source.h"

extern "C" {
#include <libavcodec/version.h>
}

#include <sstream>
#include <vector>

namespace yarngap {

namespace {

/// Raised whenever the program begins to find out something else about the same file.
constexpr int generation = 5;

std::string keyOf(const char* what, const std::string& of) {
    return std::string(what) + ':' + std::to_string(generation) + ':' +
           std::to_string(LIBAVCODEC_VERSION_INT) + ':' + of;
}

/// Of a file as it lies there now; empty when there is none.
std::string keyOfFile(const std::filesystem::path& path) {
    const auto edition = editionOf(path);
    if (!edition) return {};
    std::string key;
    for (const std::int64_t number :
         {static_cast<std::int64_t>(edition->place.device), static_cast<std::int64_t>(edition->place.inode),
          edition->bytes, edition->modified, edition->changed})
        key += std::to_string(number) + ',';
    return key;
}

/// Whether the numbers of an index fit each other, so that whoever reads frames by it stays inside.
bool isSound(const MediaIndex& index) {
    const auto packets = static_cast<std::int64_t>(index.packets.size());
    if (index.displayPacket.empty() || index.facts.frames != index.frames()) return false;
    for (const std::int32_t packet : index.displayPacket)
        if (packet < 0 || packet >= packets) return false;
    return true;
}

} // namespace

template <typename Value>
std::shared_ptr<const Value> KnownMedia::find(const std::string& key) const {
    if (!files_) return nullptr;
    const std::filesystem::path file = files_->fileOf(key);
    const auto bytes = readKept(file, key);
    if (!bytes) return nullptr;
    try {
        std::istringstream in(*bytes);
        cereal::PortableBinaryInputArchive archive(in);
        auto value = std::make_shared<Value>();
        archive(*value);
        CacheFolder::touch(file);
        return value;
    } catch (const std::exception&) {
        return nullptr; // of a form that this version does not know
    }
}

template <typename Value>
void KnownMedia::keep(const std::string& key, const Value& value) const {
    if (!files_) return;
    std::ostringstream out;
    cereal::PortableBinaryOutputArchive archive(out);
    archive(value);
    std::string bytes = out.str();
    const std::size_t size = bytes.size();
    files_->keep(key, size, [key, bytes = std::move(bytes)](const std::filesystem::path& file) {
        writeKept(file, key, bytes);
    });
}

std::shared_ptr<const MediaIndex> KnownMedia::index(const std::filesystem::path& path,
                                                    const Progress& progress,
                                                    const std::stop_token& stop) const {
    const std::string before = keyOfFile(path);
    if (!before.empty()) {
        const auto kept = find<MediaIndex>(keyOf("index", before));
        if (kept && isSound(*kept)) {
            auto index = std::make_shared<MediaIndex>(*kept);
            index->facts.path = path;
            if (progress) progress(1.0);
            return index;
        }
    }
    auto made = std::make_shared<const MediaIndex>(buildIndex(path, progress, stop));
    // What ended early, for instance, may have been the reading and not the file.
    const bool isWhole = made->pictures.empty() && made->facts.remark.empty();
    if (isWhole && !before.empty() && before == keyOfFile(path)) keep(keyOf("index", before), *made);
    return made;
}

std::shared_ptr<const ShotFindings> KnownMedia::findings(const std::shared_ptr<const MediaIndex>& index,
                                                         const Progress& progress,
                                                         const std::stop_token& stop, LookedFor what) const {
    std::vector<std::string> keys{keyOf("findings", index->edition)};
    if (what == LookedFor::making) keys.push_back(keyOf("findings for making", index->edition));
    for (const std::string& key : keys)
        if (auto kept = find<ShotFindings>(key); kept && kept->frames == index->frames()) {
            if (progress) progress(1.0);
            return kept;
        }
    auto found = std::make_shared<const ShotFindings>(inspectShot(index, progress, stop, what));
    if (found->undecodable.empty()) keep(keys.back(), *found);
    return found;
}

std::shared_ptr<const Suitability> KnownMedia::suitability(const std::shared_ptr<const MediaIndex>& index,
                                                           const ShotFindings& findings,
                                                           const std::stop_token& stop) const {
    const std::string key = keyOf("suitability", index->edition);
    if (auto kept = find<Suitability>(key)) return kept;
    constexpr std::size_t cacheBytes = std::size_t{48} << 20;
    const auto frames = interpreted(std::make_shared<FrameSource>(index, cacheBytes), index,
                                    measuredInterpretation(*index, findings));
    auto assessed = std::make_shared<const Suitability>(assessSuitability(*frames, findings, stop));
    if (findings.undecodable.empty()) keep(key, *assessed);
    return assessed;
}

std::shared_ptr<const KnownMedia> knownMediaOfUser() {
    const auto folder = cacheFolderOfUser("known");
    return folder.empty() ? std::make_shared<const KnownMedia>() : std::make_shared<const KnownMedia>(folder);
}

} // namespace yarngap
