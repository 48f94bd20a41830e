// Mends: gaps of a shot that are made otherwise than the rest.
#pragma once

#include "core/settings/patch.h"
#include "core/settings/settings_in_force.h"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

/// What is made otherwise; what is not set stays as the shot has it. A plain value.
struct MendChanges {
    std::optional<Method> method = {};
    std::optional<SampleFrom> sampleFrom = {};
    std::optional<FlowQuality> quality = {}; ///< in the window and in renders
    std::optional<int> stiffness = {};
    std::optional<AnalyseOn> analyseOn = {};
    std::optional<InFront> inFront = {};
    std::optional<Sides> sides = {};
    std::optional<int> trustLimit = {};
    std::optional<StandIn> standIn = {};
    std::optional<bool> bendPaths = {};
    std::optional<Guide> guide = {};

    friend bool operator==(const MendChanges&, const MendChanges&) = default;
};

/// `settings` with the changes.
GapSettings withChanges(GapSettings settings, const MendChanges& changes);

/// Gaps `first` to `last`, both included; gap n lies between source frames n and n + 1.
struct GapRange {
    std::int64_t first = 0;
    std::int64_t last = 0;

    [[nodiscard]] bool contains(std::int64_t gap) const { return first <= gap && gap <= last; }
    friend bool operator==(const GapRange&, const GapRange&) = default;
};

/// A stretch of gaps made otherwise. A plain value.
struct Mend {
    GapRange gaps = {};
    std::string name = {}; ///< what the editor sees: "stiffer"
    bool isOn = true;
    MendChanges changes = {};
    /// Counts inside this outline alone; what it shows may be something else than what the changes make.
    std::optional<Patch> patch = {};

    friend bool operator==(const Mend&, const Mend&) = default;
};

/// What an editor has done about the doubtful gaps of a shot. A plain value.
struct Mending {
    /// Where several change the same thing in a gap, the last one that is on counts.
    std::vector<Mend> mends = {};
    std::vector<std::int64_t> accepted = {}; ///< gaps that may stay as they are, in order

    static constexpr std::size_t mostMends = 10'000;
    static constexpr std::size_t mostPatchesAtOnce = 8; ///< over each other in one gap
    static constexpr std::size_t mostAccepted = 1'000'000;

    [[nodiscard]] bool empty() const { return mends.empty() && accepted.empty(); }
    /// Place of the last mend that is on in a gap.
    [[nodiscard]] std::optional<std::size_t> at(std::int64_t gap) const;
    [[nodiscard]] bool isAccepted(std::int64_t gap) const;
    friend bool operator==(const Mending&, const Mending&) = default;
};

/// With gap `gap` accepted as it is, or not any more.
Mending withAccepted(Mending mending, std::int64_t gap, bool accepted);
/// With `mend` in place of those of the same gaps and kind: a guide, or other settings. A patch takes the
/// place of none.
Mending withMend(Mending mending, Mend mend);
/// Without what mends gap `gap`: of longer ones the rest stays.
Mending withoutMendAt(Mending mending, std::int64_t gap);

/// Where a mend counts: of those that are on in a gap the last one.
struct MendInForce {
    GapRange gaps = {};
    std::size_t mend = 0; ///< its place among all
};
/// Such stretches in order, none overlapping: Mending::at() for many gaps at once.
std::vector<MendInForce> mendsInForce(const std::vector<Mend>& mends);

/// Throws Error, with what is wrong and where, unless ranges and values are sound.
void validate(const Mending& mending);

/// Puts the mends that are on over the settings of a shot, in their order.
void putMends(SettingsInForce& settings, const std::vector<Mend>& mends);

} // namespace yarngap
