// Names of files in the making, and what is left of those whose program ended too early.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace yarngap {

/// The process that makes a file, as told by the file's name.
struct Maker {
    std::string place; ///< machine and process space, hashed: only there the numbers below mean something
    std::string boot;  ///< run of that machine, hashed
    long process = 0;
    long long started = 0; ///< clock ticks from the boot to the start of the process, which no later one has

    friend bool operator==(const Maker&, const Maker&) = default;
};

/// This process.
Maker thisMaker();
/// Whether the process is known to have ended. One of another machine is not known to.
bool hasEnded(const Maker& maker);

/// A hidden name in `folder` that nobody else uses, short whatever it is for:
/// ".yarngap-PLACE-BOOT-PROCESS-STARTED-NUMBER.partial".
std::filesystem::path partialNameIn(const std::filesystem::path& folder);
/// Who makes a file of such a name; nothing for other names.
std::optional<Maker> makerFrom(std::string_view fileName);

/// Takes away files and folders of such names whose makers have ended, killed or without power. A set of
/// pictures that was being put in its place is completed first (see new_sequence.h).
void removeLeftovers(const std::filesystem::path& folder);

} // namespace yarngap
