// Which settings are in force where in a shot.
#pragma once

#include "core/settings/in_betweens.h"
#include "core/settings/method.h"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <vector>

namespace yarngap {

/// How the in-betweens of a gap are made. A plain value.
struct GapSettings {
    Method method = Method::flow;
    InBetweens inBetweens = {};
    SampleFrom sampleFrom = SampleFrom::nearest; ///< of Method::sample

    friend bool operator==(const GapSettings&, const GapSettings&) = default;
};

/// Settings for the whole shot, and others for stretches of its gaps.
///
///     SettingsInForce settings({Method::flow});
///     settings.put(40, 42, {Method::blend});
///     settings.at(41).method; // Method::blend
class SettingsInForce {
  public:
    SettingsInForce(GapSettings everywhere) // NOLINT(google-explicit-constructor): most shots have one
        : table_{std::move(everywhere)} {}

    /// From now on `settings` are in force in gaps `first` to `last`, both included.
    void put(std::int64_t first, std::int64_t last, const GapSettings& settings);
    /// Changes what is in force in gaps `first` to `last`, whatever it is there.
    void change(std::int64_t first, std::int64_t last,
                const std::function<GapSettings(const GapSettings&)>& change);
    /// All that are in force somewhere, those of the whole shot first.
    [[nodiscard]] const std::vector<GapSettings>& table() const { return table_; }
    /// Place in the table of those in force in gap `gap`.
    [[nodiscard]] std::size_t indexAt(std::int64_t gap) const;
    [[nodiscard]] const GapSettings& at(std::int64_t gap) const { return table_[indexAt(gap)]; }
    [[nodiscard]] GapSettings& everywhere() { return table_.front(); }

  private:
    struct Stretch {
        std::int64_t first, last;
        std::size_t index;
    };
    std::vector<GapSettings> table_;
    std::vector<Stretch> stretches_; ///< in order, none overlapping
};

} // namespace yarngap
