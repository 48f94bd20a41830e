// The worn print among the demo shots, and what is known of it.
#pragma once

#include "theatre/scene.h"

namespace yarngap::theatre {

inline constexpr int oldReelRate = 24;
inline constexpr int oldReelLoss = 50;   ///< first frame after the lost ones
inline constexpr int oldReelMissing = 2; ///< frames lost there

/// Draws by whole frames: dust, weave and flicker stay while the shutter is open.
std::unique_ptr<Scene> oldReel(int width, int height);

} // namespace yarngap::theatre
