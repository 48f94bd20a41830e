#include "core/media/picture_library.h"

#include "core/error.h"
#include "core/version.h"

#include <dlfcn.h>

#include <filesystem>
#include <string>

namespace yarngap {

namespace {

constexpr const char* moduleFile = "yarngap-pictures.so";

/// Beside the program where it was built, in a folder of its own where it is installed.
std::filesystem::path modulePath() {
    std::error_code ec;
    const std::filesystem::path folder = std::filesystem::read_symlink("/proc/self/exe", ec).parent_path();
    std::filesystem::path beside = folder / moduleFile;
    if (std::filesystem::exists(beside, ec)) return beside;
    return (folder.parent_path() / YARNGAP_MODULE_FOLDER / moduleFile).lexically_normal();
}

template <typename Result>
auto functionOf(void* module, const char* name) {
    return reinterpret_cast<Result (*)()>(module ? ::dlsym(module, name) : nullptr);
}

PictureLibrary& loaded() {
    const std::filesystem::path file = modulePath();
    // It stays until the program ends, like any other library.
    void* module = ::dlopen(file.c_str(), RTLD_LAZY | RTLD_LOCAL);
    const auto moduleVersion = functionOf<const char*>(module, "yarngapPictureVersion");
    const auto library = functionOf<PictureLibrary*>(module, "yarngapPictureLibrary");
    if (!moduleVersion || !library) {
        const char* why = ::dlerror();
        throw Error(
            "Picture files cannot be read or written, since a part of the program cannot be loaded: " +
            std::string(why ? why : file.c_str()) + ". Install Yarn Gap again.");
    }
    // A package may have been installed over it while the program runs.
    if (moduleVersion() != version())
        throw Error("Picture files cannot be read or written: " + file.string() + " is of version " +
                    moduleVersion() + ", this program of " + std::string(version()) +
                    ". Save your work and start Yarn Gap again.");
    return *library();
}

} // namespace

PictureLibrary& pictureLibrary() {
    static PictureLibrary& library = loaded();
    return library;
}

} // namespace yarngap
