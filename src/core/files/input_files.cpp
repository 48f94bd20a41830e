#include "core/files/input_files.h"

#include "core/error.h"

#include <set>

namespace yarngap {

void InputFiles::add(const std::filesystem::path& file) {
    if (const auto edition = editionOf(file)) files_.try_emplace(edition->place, file);
}

void InputFiles::add(const std::vector<std::filesystem::path>& files) {
    for (const std::filesystem::path& file : files)
        add(file);
}

void InputFiles::refuse(const std::vector<std::filesystem::path>& outputs) const {
    for (const std::filesystem::path& output : outputs) {
        const auto edition = editionOf(output);
        const auto found = edition ? files_.find(edition->place) : files_.end();
        if (found == files_.end()) continue;
        const bool sameName = found->second == output;
        throw Error("The result would overwrite its own source " + found->second.string() +
                    (sameName ? "" : " (" + output.string() + " is the same file)") +
                    ". Choose another name.");
    }
}

void refuseSameOutput(const std::vector<std::filesystem::path>& outputs) {
    std::set<std::filesystem::path> names;
    std::set<FilePlace> places;
    for (const std::filesystem::path& output : outputs) {
        std::error_code ec;
        const auto edition = editionOf(output);
        const bool isNew = names.insert(std::filesystem::weakly_canonical(output, ec)).second &&
                           (!edition || places.insert(edition->place).second);
        if (!isNew)
            throw Error("Two results would be written to " + output.string() +
                        ". Give each a name of its own.");
    }
}

} // namespace yarngap
