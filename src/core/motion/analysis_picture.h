// The picture that motion is estimated on.
#pragma once

#include "core/image/image.h"
#include "core/motion/flow_estimator.h"

#include <opencv2/core.hpp>

namespace yarngap {

/// Luma of a picture as CV_8U: plane 0 of YUV and grey, 0.2126 R + 0.7152 G + 0.0722 B (BT.709) of RGB;
/// floats through the curve for analysis. Then, by `on`:
///
/// contrast: histograms evened within tiles of an eighth of the picture, at most three times steeper (CLAHE;
/// Zuiderveld 1994), so that faint texture in shadows and flat skies counts;
/// edges: the length of the gradient (Sobel after a Gaussian of 1 pixel), so that outlines count and
/// brightness does not.
cv::Mat analysisPicture(const Image& image, AnalyseOn on);

} // namespace yarngap
