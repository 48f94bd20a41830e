// Whatever the bytes, reading a project either refuses them with an Error or gives a project that is written
// and read again as it was.

#include "core/error.h"
#include "core/project/project.h"

#include <cstdint>
#include <cstdlib>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
    using namespace yarngap;
    const std::filesystem::path folder = "/film";
    try {
        const Project project =
            parseProject({reinterpret_cast<const char*>(bytes), size}, folder, "fuzzed.yarngap");
        if (parseProject(projectText(project, folder), folder, "again") != project) std::abort();
    } catch (const Error&) {
        // The sentence is for a person; that there is one is enough here.
    }
    return 0;
}
