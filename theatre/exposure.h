// A camera for scenes: shutter, grain, and samples as video keeps them.
#pragma once

#include "core/image/image.h"
#include "core/time/rate.h"
#include "theatre/scene.h"

namespace yarngap::theatre {

struct Camera {
    int width = 960;
    int height = 540;
    Rate rate;                 ///< frames per second
    double shutterSeconds = 0; ///< how long a frame is exposed, centred on its moment
    int samples = 4;           ///< moments integrated over the exposure
    int depth = 8;             ///< bits of the 4:2:0 result, BT.709, limited range
    double grain = 1.6;        ///< standard deviation in 8-bit steps
    std::uint32_t seed = 1;
};

/// Frame `n` as the camera sees it: the mean of `samples` moments in linear light, then grain, then YUV.
Image expose(const Scene& scene, const Camera& camera, std::int64_t n);

} // namespace yarngap::theatre
