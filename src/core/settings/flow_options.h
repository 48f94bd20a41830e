// How motion between two frames is estimated.
#pragma once

#include "core/settings/guide.h"

#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// How much work goes into the vectors.
enum class FlowQuality {
    draft,    ///< quick look, at half the size; fine outlines may wobble
    standard, ///< the default
    thorough  ///< three estimates, the best one chosen per pixel; standard motion of the gaps beside goes on
              ///< where one frame hides it, and bends paths; where it cannot be told how things moved, frames
              ///< are the mean of several ways; more than five times as slow
};

/// The picture the estimator sees.
enum class AnalyseOn {
    asIs,
    contrast, ///< with contrast lifted: faint texture, shadows
    edges     ///< outlines alone: flicker, changing light
};

[[nodiscard]] std::string_view name(FlowQuality quality);
/// Reads "draft", "standard" or "thorough"; throws Error listing them.
FlowQuality parseFlowQuality(std::string_view text);
[[nodiscard]] std::string_view name(AnalyseOn value);
/// Reads "picture", "contrast" or "edges"; throws Error listing them.
AnalyseOn parseAnalyseOn(std::string_view text);

struct FlowOptions {
    /// Work per gap. Default standard; draft while trying things out, thorough for a final that shows faults.
    FlowQuality quality = FlowQuality::standard;
    /// How strongly neighbouring pixels must move alike, 0 to 100: loose for people, animals, cloth; stiff
    /// for a camera move over a still scene. The weight of smoothness doubles every 15; above 50 pixels take
    /// the camera's own motion more and more readily, up to where the picture fits 6 steps (of 8 bit) worse.
    int stiffness = defaultStiffness;
    /// Change where the picture itself misleads.
    AnalyseOn analyseOn = AnalyseOn::asIs;
    /// What is known of where things go, of one gap alone: the estimate follows it, softly (see followGuide).
    std::vector<GuidePair> guide = {};

    static constexpr int defaultStiffness = 40;
    static constexpr int stiffest = 100;

    friend bool operator==(const FlowOptions&, const FlowOptions&) = default;
};

/// Different for options that make different vectors.
std::string keyOf(const FlowOptions& options);

} // namespace yarngap
