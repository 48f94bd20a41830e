#include "core/motion/analysis_picture.h"

#include "core/image/scene_light.h"

#include <opencv2/imgproc.hpp>

namespace yarngap {

namespace {

cv::Mat luma8(const Image& image) {
    if (image.layout().isFloat()) return luma8(encodeLight(image, LightCurve::analysis));
    const PixelLayout& layout = image.layout();
    const auto asFloat = [&](int p) {
        const Image::Plane& pl = image.plane(p);
        // The view is only read from; OpenCV has no constant view.
        const cv::Mat view(pl.height, pl.width, layout.depth > 8 ? CV_16UC1 : CV_8UC1,
                           const_cast<std::byte*>(pl.bytes.data()), pl.stride);
        cv::Mat out;
        view.convertTo(out, CV_32F, 255.0 / layout.maxValue());
        return out;
    };
    cv::Mat luma;
    if (layout.model == ColourModel::rgb) {
        const cv::Mat sum = asFloat(0) * 0.7152 + asFloat(1) * 0.0722 + asFloat(2) * 0.2126; // planes G B R
        sum.convertTo(luma, CV_8U);
    } else if (layout.depth == 8) {
        const Image::Plane& y = image.plane(0);
        luma = cv::Mat(y.height, y.width, CV_8UC1, const_cast<std::byte*>(y.bytes.data()), y.stride).clone();
    } else {
        asFloat(0).convertTo(luma, CV_8U);
    }
    return luma;
}

} // namespace

cv::Mat analysisPicture(const Image& image, AnalyseOn on) {
    cv::Mat luma = luma8(image);
    switch (on) {
    case AnalyseOn::asIs:
        break;
    case AnalyseOn::contrast: {
        constexpr double steepest = 3;
        constexpr int tiles = 8;
        cv::createCLAHE(steepest, {tiles, tiles})->apply(luma, luma);
        break;
    }
    case AnalyseOn::edges: {
        cv::GaussianBlur(luma, luma, {5, 5}, 1);
        cv::Mat dx;
        cv::Mat dy;
        cv::Sobel(luma, dx, CV_32F, 1, 0);
        cv::Sobel(luma, dy, CV_32F, 0, 1);
        cv::Mat length;
        cv::magnitude(dx, dy, length);
        length.convertTo(luma, CV_8U, 0.5); // a step of 128 in 8 bit becomes white
        break;
    }
    }
    return luma;
}

} // namespace yarngap
