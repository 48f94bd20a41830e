// What a shot shows that its editor may want to put right before anything is made from it.
#pragma once

#include "core/cleaning/cleanup.h"

#include <cstdint>
#include <vector>

namespace yarngap {

/// A frame that something was found about.
struct FoundFrame {
    std::int64_t frame = 0; ///< of the file, as coded
    double certainty = 0;   ///< 0 to 1

    friend bool operator==(const FoundFrame&, const FoundFrame&) = default;
};

/// Places in a frame that differ from what both neighbours agree on.
struct FoundDamage {
    std::int64_t frame = 0; ///< of the file, as coded
    double certainty = 0;   ///< 0 to 1
    /// Empty where the whole frame is bad.
    std::vector<DamagedPlace> places = {};

    friend bool operator==(const FoundDamage&, const FoundDamage&) = default;
};

/// Frames lost between two.
struct FoundLoss {
    std::int64_t after = 0; ///< the last frame before the lost ones, as coded
    int missing = 1;
    double certainty = 0; ///< 0 to 1

    friend bool operator==(const FoundLoss&, const FoundLoss&) = default;
};

/// All of them, each list in order of frames. What is less certain than `leastCertainty` is not kept.
struct CleanFindings {
    std::vector<FoundFrame> repeats;     ///< the whole picture shows again what the one before shows
    std::vector<FoundFrame> figureHolds; ///< the figure does, once the camera's own motion is taken away
    std::vector<FoundDamage> damage;
    std::vector<FoundLoss> losses;

    static constexpr double leastCertainty = 0.3;

    friend bool operator==(const CleanFindings&, const CleanFindings&) = default;
};

} // namespace yarngap
