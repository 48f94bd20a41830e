#include "cli/commands.h"
#include "cli/json_output.h"
#include "core/render/farm.h"
#include "core/render/slice_folder.h"

#include <nlohmann/json.hpp>

#include <charconv>
#include <iostream>

namespace yarngap::cli {

namespace {

std::optional<int> sliceFrom(const std::string& text) {
    if (text == "join") return std::nullopt;
    int slice = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), slice);
    if (ec != std::errc() || end != text.data() + text.size() || slice < 0)
        throw WrongUsage("--log is the number of a slice, or join.");
    return slice;
}

} // namespace

ExitStatus lookAtFarm(const FarmArguments& arguments, bool json) {
    const auto folder = std::filesystem::absolute(SliceFolder::beside(arguments.target));
    if (arguments.cancel) {
        cancelOnFarm(folder);
        std::cout << "Cancelled. Slices that are ready stay in " << folder.string() << ".\n";
        return done;
    }
    if (arguments.retry) {
        retryOnFarm(folder);
        std::cout << "The slices that failed are submitted once more.\n";
        return done;
    }
    if (arguments.log) {
        std::cout << farmLog(folder, sliceFrom(*arguments.log));
        return done;
    }
    if (!std::filesystem::exists(folder) && !std::filesystem::exists(arguments.target))
        throw Error("Nothing of " + arguments.target + " was handed to a farm.");
    const FarmState state = farmState(folder);
    if (json) {
        nlohmann::ordered_json slices = nlohmann::ordered_json::array();
        for (const FarmState::Slice slice : state.slices)
            slices.push_back(name(slice));
        print({{"slices", slices}, {"join", name(state.join)}});
    } else {
        using enum FarmState::Slice;
        std::cout << state.count(ready) << " ready, " << state.count(running) << " running, "
                  << state.count(waiting) << " waiting, " << state.count(FarmState::Slice::failed)
                  << " failed; join: " << name(state.join) << '\n';
    }
    return state.join == FarmState::Join::failed ? ExitStatus::failed : done;
}

} // namespace yarngap::cli
