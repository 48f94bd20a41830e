#include "cli/gap_slices.h"

#include "cli/shot_arguments.h"

namespace yarngap::cli {

void GapSlices::addTo(CLI::App& command) {
    command.add_option("--slices", slices, "Share the gaps out to so many machines")
        ->check(CLI::Range(1, 9999));
    command.add_option("--slice", slice, "Do that part alone, 0 to N-1 (with --slices N)")
        ->check(CLI::Range(0, 9998));
}

void GapSlices::check(bool needsSlice) const {
    if (slice && !slices) throw WrongUsage("--slice needs --slices N, the number of parts.");
    if (slices && !slice && needsSlice) throw WrongUsage("--slices needs --slice K, one of the parts.");
    if (slice && *slice >= *slices)
        throw WrongUsage("--slice goes from 0 to " + std::to_string(*slices - 1) + ".");
}

std::pair<std::size_t, std::size_t> GapSlices::of(std::size_t count) const {
    if (!slice) return {0, count};
    const auto parts = static_cast<std::size_t>(*slices);
    const auto part = static_cast<std::size_t>(*slice);
    return {count * part / parts, count * (part + 1) / parts};
}

} // namespace yarngap::cli
