#include "core/motion/analysis_picture.h"

#include "core/image/scene_light.h"

#include <opencv2/imgproc.hpp>

#include <cmath>
#include <cstddef>

namespace yarngap {

namespace {

/// Plane `p` as it is. The view is only to be read from; OpenCV has no constant view.
cv::Mat viewOf(const Image& image, int p) {
    const Image::Plane& plane = image.plane(p);
    return {plane.height, plane.width, image.layout().depth > 8 ? CV_16UC1 : CV_8UC1,
            const_cast<std::byte*>(plane.bytes.data()), plane.stride};
}

/// Plane `p` in 8-bit steps, CV_32F.
cv::Mat stepsOf(const Image& image, int p) {
    cv::Mat out;
    viewOf(image, p).convertTo(out, CV_32F, 255.0 / image.layout().maxValue());
    return out;
}

cv::Mat luma8(const Image& image) {
    if (image.layout().isFloat()) return luma8(encodeLight(image, LightCurve::analysis));
    if (image.layout().model != ColourModel::rgb && image.layout().depth == 8)
        return viewOf(image, 0).clone();
    cv::Mat luma;
    if (image.layout().model == ColourModel::rgb) {
        const cv::Mat sum =
            stepsOf(image, 0) * 0.7152 + stepsOf(image, 1) * 0.0722 + stepsOf(image, 2) * 0.2126; // G B R
        sum.convertTo(luma, CV_8U);
    } else {
        stepsOf(image, 0).convertTo(luma, CV_8U);
    }
    return luma;
}

cv::Mat colour8(const Image& image) {
    constexpr double none = 128;
    std::array<cv::Mat, 2> parts;
    for (int p = 1; p <= 2; ++p) {
        cv::Mat& part = parts[static_cast<std::size_t>(p - 1)];
        if (image.layout().model == ColourModel::rgb) {
            const cv::Mat above = stepsOf(image, p) - stepsOf(image, 0);
            above.convertTo(part, CV_8U, 0.5, none);
        } else {
            viewOf(image, p).convertTo(part, CV_8U, 255.0 / image.layout().maxValue());
            cv::resize(part, part, {image.width(), image.height()}, 0, 0, cv::INTER_LINEAR);
        }
    }
    cv::Mat out;
    cv::merge(parts.data(), parts.size(), out);
    return out;
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

ColouredPicture colouredPicture(const Image& image, AnalyseOn on) {
    if (image.layout().isFloat()) return colouredPicture(encodeLight(image, LightCurve::analysis), on);
    return {analysisPicture(image, on), analysisColour(image, on)};
}

cv::Mat analysisColour(const Image& image, AnalyseOn on) {
    if (image.layout().model == ColourModel::grey || on == AnalyseOn::edges) return {};
    return image.layout().isFloat() ? colour8(encodeLight(image, LightCurve::analysis)) : colour8(image);
}

std::array<cv::Mat, 2> contrastedByColour(const ColouredPicture& a, const ColouredPicture& b) {
    if (a.colour.empty() || b.colour.empty()) return {};
    // Every eighth line and column tells enough.
    constexpr int apart = 8;
    cv::Vec2d sum;
    cv::Matx22d products = cv::Matx22d::zeros();
    double n = 0;
    for (const cv::Mat* picture : {&a.colour, &b.colour})
        for (int y = 0; y < picture->rows; y += apart)
            for (int x = 0; x < picture->cols; x += apart) {
                const cv::Vec2d c = picture->at<cv::Vec2b>(y, x);
                sum += c;
                products += c * c.t();
                n += 1;
            }
    const cv::Vec2d mean = sum / n;
    const cv::Matx22d covariance = products * (1 / n) - mean * mean.t();
    const double half = 0.5 * (covariance(0, 0) + covariance(1, 1));
    const double variance = half + std::hypot(0.5 * (covariance(0, 0) - covariance(1, 1)), covariance(0, 1));
    constexpr double least = 2;
    if (variance < least * least) return {};
    // The angle of the principal axis. Redness counts upwards, so that the same colours always look the same.
    const double angle = 0.5 * std::atan2(2 * covariance(0, 1), covariance(0, 0) - covariance(1, 1));
    cv::Vec2d axis(std::cos(angle), std::sin(angle));
    if (axis[1] < 0) axis = -axis;
    constexpr double gain = 1.4; // colour is sampled with less contrast than luma
    const cv::Matx12f along(static_cast<float>(gain * axis[0]), static_cast<float>(gain * axis[1]));
    std::array<cv::Mat, 2> out;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const ColouredPicture& picture = i == 0 ? a : b;
        cv::Mat colour;
        picture.colour.convertTo(colour, CV_32F);
        cv::transform(colour - cv::Scalar(mean[0], mean[1]), colour, along);
        cv::add(picture.luma, colour, out[i], {}, CV_8U);
    }
    return out;
}

cv::Mat inCells(const cv::Mat& picture) {
    cv::Mat even = picture;
    if (picture.cols % 2 == 1 || picture.rows % 2 == 1)
        cv::copyMakeBorder(picture, even, 0, picture.rows % 2, 0, picture.cols % 2, cv::BORDER_REPLICATE);
    cv::Mat out;
    cv::resize(even, out, {even.cols / 2, even.rows / 2}, 0, 0, cv::INTER_AREA);
    return out;
}

} // namespace yarngap
