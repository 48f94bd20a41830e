#include "core/inspection/small_luma.h"

#include "core/image/scene_light.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>

namespace yarngap {

Image smallLuma(const Image& image, int widest, int depth) {
    if (image.layout().isFloat()) return smallLuma(encodeLight(image, LightCurve::analysis), widest, depth);
    const bool deep = image.layout().depth > 8;
    const Image::Plane& plane = image.plane(0);
    // The view is only read from; OpenCV has no constant view.
    const cv::Mat view(plane.height, plane.width, deep ? CV_16UC1 : CV_8UC1,
                       const_cast<std::byte*>(plane.bytes.data()), plane.stride);
    const int type = depth > 8 ? CV_16U : CV_8U;
    const PixelLayout layout{.model = ColourModel::grey, .depth = depth};
    cv::Mat grey;
    view.convertTo(grey, type, static_cast<double>(layout.maxValue()) / image.layout().maxValue());
    const double scale = std::min(1.0, static_cast<double>(widest) / plane.width);
    const int width = std::max(1, static_cast<int>(std::lround(plane.width * scale)));
    const int height = std::max(1, static_cast<int>(std::lround(plane.height * scale)));
    Image out(width, height, layout);
    cv::Mat target(height, width, type, out.plane(0).bytes.data(), out.plane(0).stride);
    cv::resize(grey, target, target.size(), 0, 0, cv::INTER_AREA);
    return out;
}

} // namespace yarngap
