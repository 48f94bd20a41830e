// The in-between settings of a shot.
#pragma once

#include "core/settings/flow_options.h"
#include "core/settings/synthesis_options.h"

#include <optional>

namespace yarngap {

/// How flow frames of a shot are made. A plain value.
struct InBetweens {
    FlowOptions flow; ///< its quality is that of the work in the window
    /// Work per gap when the result is rendered.
    FlowQuality finalQuality = FlowQuality::standard;
    SynthesisOptions synthesis;
    std::optional<Guide> guide = {}; ///< of one gap

    /// How motion from source frame `first` to `last` is estimated.
    [[nodiscard]] FlowOptions flowOf(std::int64_t first, std::int64_t last) const {
        FlowOptions out = flow;
        if (guide && guide->first == first && guide->last == last) out.guide = guide->pairs;
        return out;
    }
    /// The same with the quality of the render.
    [[nodiscard]] InBetweens forFinal() const {
        InBetweens out = *this;
        out.flow.quality = finalQuality;
        return out;
    }
    /// The same as a quick look.
    [[nodiscard]] InBetweens forDraft() const {
        InBetweens out = *this;
        out.flow.quality = FlowQuality::draft;
        return out;
    }
    friend bool operator==(const InBetweens&, const InBetweens&) = default;
};

} // namespace yarngap
