// The gaps of a shot shared out between several machines, for `doubt` and `vectors`.
#pragma once

#include <CLI/CLI.hpp>

#include <cstddef>
#include <optional>
#include <utility>

namespace yarngap::cli {

/// One of N parts of a list. Only what was given is set.
struct GapSlices {
    std::optional<int> slices, slice;

    void addTo(CLI::App& command);
    /// Throws WrongUsage for one option without the other, or a part that does not exist. `needsSlice`:
    /// unless parts are also joined.
    void check(bool needsSlice) const;
    /// The part of a list of `count` entries: its first, and the one behind its last. All parts together are
    /// the list, and their lengths differ by one at most.
    [[nodiscard]] std::pair<std::size_t, std::size_t> of(std::size_t count) const;
};

} // namespace yarngap::cli
