// The picture that motion is estimated on.
#pragma once

#include "core/image/image.h"
#include "core/motion/flow_estimator.h"

#include <opencv2/core.hpp>

#include <array>

namespace yarngap {

/// Luma of a picture as CV_8U: plane 0 of YUV and grey, 0.2126 R + 0.7152 G + 0.0722 B (BT.709) of RGB;
/// floats through the curve for analysis. Then, by `on`:
///
/// contrast: histograms evened within tiles of an eighth of the picture, at most three times steeper (CLAHE;
/// Zuiderveld 1994), so that faint texture in shadows and flat skies counts;
/// edges: the length of the gradient (Sobel after a Gaussian of 1 pixel), so that outlines count and
/// brightness does not.
cv::Mat analysisPicture(const Image& image, AnalyseOn on);

/// A picture to be analysed, with its colour.
struct ColouredPicture {
    cv::Mat luma = {};   ///< CV_8U
    cv::Mat colour = {}; ///< CV_8UC2 of the same size, blueness and redness, 128 being none; or empty

    [[nodiscard]] ColouredPicture inside(const cv::Rect& where) const {
        return {luma(where), colour.empty() ? colour : colour(where)};
    }
};

/// `luma` as analysisPicture has it. Colour is planes U and V of YUV, (B − G) / 2 and (R − G) / 2 of RGB.
/// None of grey, and none where `on` is edges: it changes with the light, as brightness does.
ColouredPicture colouredPicture(const Image& image, AnalyseOn on);
/// Its colour alone.
cv::Mat analysisColour(const Image& image, AnalyseOn on);

/// Luma of both pictures with the colour that tells most of their parts from each other added, CV_8U: what is
/// as bright as what is behind it has outlines here. The colour is the one along the principal axis of the
/// colours of both. Empty where colour varies by less than 2 steps (standard deviation), or is not known.
std::array<cv::Mat, 2> contrastedByColour(const ColouredPicture& a, const ColouredPicture& b);

/// A picture, or a motion, by cells of 2 x 2 pixels (see cell_vectors.h): means over their pixels.
cv::Mat inCells(const cv::Mat& picture);

} // namespace yarngap
