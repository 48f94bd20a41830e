// The bad tape among the demo shots, and what is known of it.
#pragma once

#include "theatre/scene.h"

#include <array>

namespace yarngap::theatre {

inline constexpr int cellarTapeRate = 24;
inline constexpr int cellarTapeFrames = 84;
inline constexpr std::array<int, 2> cellarTapeTorn{14, 47}; ///< frames with torn lines
inline constexpr int cellarTapeGrey = 24;                   ///< one without a picture
inline constexpr std::array<int, 2> cellarTapeDropouts{33, 71};
inline constexpr int cellarTapeRepeat = 40; ///< shows again the frame before
inline constexpr int cellarTapeLoss = 58;   ///< the first frame after the lost ones
inline constexpr int cellarTapeMissing = 2; ///< frames lost there

/// Draws by whole frames, but for the motion while the shutter is open.
std::unique_ptr<Scene> cellarTape(int width, int height);

} // namespace yarngap::theatre
