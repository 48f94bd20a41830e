#include "core/motion/vector_folder.h"

#include "core/error.h"
#include "core/motion/kept_vectors.h"

namespace yarngap {

VectorsPtr VectorFolder::find(const std::string& key, int width, int height) const {
    const std::filesystem::path file = files_.fileOf(key);
    std::error_code ec;
    if (!std::filesystem::exists(file, ec)) return nullptr;
    try {
        VectorsPtr kept = readKeptVectors(file, key, width, height);
        if (kept) CacheFolder::touch(file);
        return kept;
    } catch (const std::exception&) {
        std::filesystem::remove(file, ec);
        return nullptr;
    }
}

void VectorFolder::keep(const std::string& key, VectorsPtr vectors) {
    const std::size_t bytes = vectors->byteCount();
    files_.keep(key, bytes, [key, vectors = std::move(vectors)](const std::filesystem::path& file) {
        writeKeptVectors(file, *vectors, key);
    });
}

std::shared_ptr<VectorFolder> vectorFolderOfUser(std::uintmax_t byteLimit) {
    const auto folder = cacheFolderOfUser("vectors");
    return folder.empty() ? nullptr : std::make_shared<VectorFolder>(folder, byteLimit);
}

} // namespace yarngap
