#include "core/media/picture_library.h"

#include "core/error.h"

#include <dlfcn.h>

#include <filesystem>

namespace yarngap {

namespace {

constexpr const char* moduleFile = "yarngap-pictures.so";
constexpr const char* entry = "yarngapPictureLibrary";

/// Beside the program where it was built, in a folder of its own where it is installed.
std::filesystem::path modulePath() {
    std::error_code ec;
    const std::filesystem::path folder = std::filesystem::read_symlink("/proc/self/exe", ec).parent_path();
    std::filesystem::path beside = folder / moduleFile;
    if (std::filesystem::exists(beside, ec)) return beside;
    return (folder.parent_path() / YARNGAP_MODULE_FOLDER / moduleFile).lexically_normal();
}

PictureLibrary& loaded() {
    const std::filesystem::path file = modulePath();
    // It stays until the program ends, like any other library.
    void* module = ::dlopen(file.c_str(), RTLD_LAZY | RTLD_LOCAL);
    void* found = module ? ::dlsym(module, entry) : nullptr;
    if (!found) {
        const char* why = ::dlerror();
        throw Error(
            "Picture files cannot be read or written, since a part of the program cannot be loaded: " +
            std::string(why ? why : file.c_str()) + ". Install Yarn Gap again.");
    }
    return *reinterpret_cast<PictureLibrary* (*)()>(found)();
}

} // namespace

PictureLibrary& pictureLibrary() {
    static PictureLibrary& library = loaded();
    return library;
}

} // namespace yarngap
