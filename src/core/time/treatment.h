// What a plan is made with besides timing.
#pragma once

#include "core/settings/settings_in_force.h"
#include "core/time/shake.h"

#include <cstdint>
#include <optional>
#include <utility>
#include <vector>

namespace yarngap {

/// What the pictures of a shot say about its gaps; gap n lies between source frames n and n + 1.
struct GapFindings {
    std::vector<std::int64_t> cuts;    ///< gaps that are cuts, in order: nothing is made between their frames
    std::vector<std::int64_t> repeats; ///< source frames that show again what the one before shows, in order
    std::vector<Shake> shakes;         ///< of a hand-held camera, where it can be told, in order of gaps
    /// Source frames that the editor has passed over, in order: each shows what the one before shows, and
    /// counts as a repeat whatever the settings say.
    std::vector<std::int64_t> passedOver = {};
    /// Source frames of which the editor has passed over one part alone, as a matte tells them apart; in
    /// order.
    std::vector<std::int64_t> subjectPassedOver = {};
    std::vector<std::int64_t> backgroundPassedOver = {};

    friend bool operator==(const GapFindings&, const GapFindings&) = default;
};

/// A part of the picture.
enum class Part { subject, background };

/// The settings in force in each gap of a shot, and what its pictures show there.
struct Treatment {
    SettingsInForce settings;
    GapFindings found;

    Treatment(SettingsInForce inForce, GapFindings findings = {})
        : settings(std::move(inForce))
        , found(std::move(findings)) {}
    Treatment(Method method) // NOLINT(google-explicit-constructor): most tests ask for no more
        : settings({method}) {}

    /// Flow passes over repeats, so that motion goes on evenly from the frame before to the one after. Of
    /// pictures found shown more often than this none is passed over: they stand still on purpose.
    static constexpr int longestHold = 4;

    [[nodiscard]] bool isCut(std::int64_t gap) const;
    [[nodiscard]] bool isRepeat(std::int64_t frame) const;
    /// Whether the editor has passed over a frame, or that part of it.
    [[nodiscard]] bool isPassedOver(std::int64_t frame, Part part = Part::background) const;
    /// Whether the parts of the picture may have gaps of their own.
    [[nodiscard]] bool hasParts() const {
        return !found.subjectPassedOver.empty() || !found.backgroundPassedOver.empty();
    }
    [[nodiscard]] std::optional<Shake> shakeOf(std::int64_t gap) const;
    /// The two kept source frames around gap `gap`: it and the next, unless frames are passed over: by the
    /// editor's word, and with `bridgeRepeats` where they were found to be repeats. Never across a cut nor
    /// beyond frame `last`.
    [[nodiscard]] std::pair<std::int64_t, std::int64_t> keptAround(std::int64_t gap, std::int64_t last,
                                                                   bool bridgeRepeats = true,
                                                                   Part part = Part::background) const;
};

} // namespace yarngap
