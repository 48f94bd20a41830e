#include "core/motion/flow_estimator.h"

#include "core/error.h"
#include "core/image/scene_light.h"
#include "core/progress.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

constexpr int smallestSide = 16;

/// Luma of a picture as 8 bit: plane 0 of YUV and grey, 0.2126 R + 0.7152 G + 0.0722 B (BT.709) of RGB.
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

cv::Ptr<cv::DISOpticalFlow> estimator(FlowQuality quality) {
    cv::Ptr<cv::DISOpticalFlow> dis;
    switch (quality) {
    case FlowQuality::draft:
        dis = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_FAST);
        break;
    case FlowQuality::standard:
        dis = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_MEDIUM);
        break;
    case FlowQuality::thorough:
        dis = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_MEDIUM);
        dis->setFinestScale(0);
        dis->setGradientDescentIterations(32);
        dis->setVariationalRefinementIterations(8);
        break;
    }
    return dis;
}

cv::Mat estimateOneWay(const cv::Mat& from, const cv::Mat& to, FlowQuality quality) {
    cv::Mat flow;
    estimator(quality)->calc(from, to, flow);
    return flow;
}

VectorField toField(const cv::Mat& flow) {
    VectorField field{flow.cols, flow.rows, {}};
    field.xy.resize(static_cast<std::size_t>(flow.cols) * static_cast<std::size_t>(flow.rows) * 2);
    for (int y = 0; y < flow.rows; ++y)
        std::copy_n(flow.ptr<float>(y), static_cast<std::size_t>(flow.cols) * 2, field.row(y));
    return field;
}

/// Trust of the vectors `own`, which lead from picture `from` to picture `to`; see estimateFlow.
TrustField trustOf(const cv::Mat& own, const cv::Mat& back, const cv::Mat& from, const cv::Mat& to) {
    const int w = own.cols;
    const int h = own.rows;
    cv::Mat fromMean;
    cv::Mat toMean;
    cv::blur(from, fromMean, {3, 3});
    cv::blur(to, toMean, {3, 3});
    TrustField trust{w, h, {}};
    trust.values.resize(static_cast<std::size_t>(w) * static_cast<std::size_t>(h));
    tbb::parallel_for(0, h, [&](int y) {
        const auto* v = own.ptr<cv::Vec2f>(y);
        std::uint8_t* out = trust.row(y);
        for (int x = 0; x < w; ++x) {
            const float tx = static_cast<float>(x) + v[x][0];
            const float ty = static_cast<float>(y) + v[x][1];
            if (!(tx >= -0.5F && ty >= -0.5F && tx < static_cast<float>(w) - 0.5F &&
                  ty < static_cast<float>(h) - 0.5F)) {
                out[x] = 0;
                continue;
            }
            const int ix = static_cast<int>(tx + 0.5F);
            const int iy = static_cast<int>(ty + 0.5F);
            const cv::Vec2f& r = back.at<cv::Vec2f>(iy, ix);
            const float ex = v[x][0] + r[0];
            const float ey = v[x][1] + r[1];
            const float speed = std::sqrt(v[x][0] * v[x][0] + v[x][1] * v[x][1]);
            const float s = 0.5F + 0.05F * speed;
            const float d = static_cast<float>(fromMean.at<std::uint8_t>(y, x)) -
                            static_cast<float>(toMean.at<std::uint8_t>(iy, ix));
            const float e2 = (ex * ex + ey * ey) / (s * s) + d * d / (24.0F * 24.0F);
            out[x] = static_cast<std::uint8_t>(255.0F * std::exp(-e2) + 0.5F);
        }
    });
    return trust;
}

void enlarge(TrustField& trust, const cv::Size& size) {
    const cv::Mat small(trust.height, trust.width, CV_8U, trust.values.data());
    TrustField out{size.width, size.height, {}};
    out.values.resize(static_cast<std::size_t>(size.area()));
    cv::Mat large(size, CV_8U, out.values.data());
    cv::resize(small, large, size, 0, 0, cv::INTER_LINEAR);
    trust = std::move(out);
}

} // namespace

double Vectors::doubt() const {
    double sum = 0;
    for (const TrustField* t : {&forwardTrust, &backwardTrust})
        for (const std::uint8_t v : t->values)
            sum += v;
    const std::size_t n = forwardTrust.values.size() + backwardTrust.values.size();
    return n == 0 ? 0.0 : 1.0 - sum / (255.0 * static_cast<double>(n));
}

std::string_view name(FlowQuality quality) {
    switch (quality) {
    case FlowQuality::draft:
        return "draft";
    case FlowQuality::standard:
        return "standard";
    case FlowQuality::thorough:
        return "thorough";
    }
    return "";
}

FlowQuality parseFlowQuality(std::string_view text) {
    if (text == "draft") return FlowQuality::draft;
    if (text == "standard") return FlowQuality::standard;
    if (text == "thorough") return FlowQuality::thorough;
    throw Error("\"" + std::string(text) + "\" is not a quality. Use draft, standard or thorough.");
}

Vectors estimateFlow(const Image& a, const Image& b, const FlowOptions& options,
                     const std::stop_token& stop) {
    if (a.width() < smallestSide || a.height() < smallestSide) {
        const std::size_t n = static_cast<std::size_t>(a.width()) * static_cast<std::size_t>(a.height());
        const VectorField still{a.width(), a.height(), std::vector<float>(n * 2, 0.0F)};
        const TrustField none{a.width(), a.height(), std::vector<std::uint8_t>(n, 0)};
        return {still, still, none, none};
    }
    cv::Mat la;
    cv::Mat lb;
    tbb::parallel_invoke([&] { la = luma8(a); }, [&] { lb = luma8(b); });
    // A quick look is taken at half the size, where there is enough left of the picture.
    const bool halved =
        options.quality == FlowQuality::draft && std::min(la.cols, la.rows) >= 4 * smallestSide;
    const cv::Size whole = la.size();
    if (halved)
        for (cv::Mat* m : {&la, &lb})
            cv::resize(*m, *m, {(whole.width + 1) / 2, (whole.height + 1) / 2}, 0, 0, cv::INTER_AREA);
    cv::Mat forward;
    cv::Mat backward;
    tbb::parallel_invoke([&] { forward = estimateOneWay(la, lb, options.quality); },
                         [&] { backward = estimateOneWay(lb, la, options.quality); });
    throwIfStopped(stop);
    Vectors v;
    v.forwardTrust = trustOf(forward, backward, la, lb);
    v.backwardTrust = trustOf(backward, forward, lb, la);
    throwIfStopped(stop);
    if (halved) {
        const cv::Scalar factor(static_cast<double>(whole.width) / la.cols,
                                static_cast<double>(whole.height) / la.rows);
        for (cv::Mat* flow : {&forward, &backward}) {
            cv::resize(*flow, *flow, whole, 0, 0, cv::INTER_LINEAR);
            cv::multiply(*flow, factor, *flow);
        }
        enlarge(v.forwardTrust, whole);
        enlarge(v.backwardTrust, whole);
    }
    v.forward = toField(forward);
    v.backward = toField(backward);
    return v;
}

} // namespace yarngap
