#include "core/motion/rounded_vectors.h"

#include "core/motion/half_floats.h"
#include "core/motion/motion_trust.h"
#include "core/progress.h"
#include "core/widest.h"

#include <tbb/parallel_for.h>

#include <cstddef>
#include <utility>

namespace yarngap {

namespace {

YARNGAP_WIDEST void roundToHalf(const float* from, int count, float scale, float* to) {
#pragma GCC ivdep
    for (int i = 0; i < count; ++i)
        to[i] = roundedToHalf(scale * from[i]);
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

VectorField toField(const cv::Mat& flow, int pixels) {
    VectorField field{flow.cols, flow.rows, {}};
    field.xy.resize(static_cast<std::size_t>(flow.cols) * static_cast<std::size_t>(flow.rows) * 2);
    tbb::parallel_for(0, flow.rows, [&](int y) {
        roundToHalf(flow.ptr<float>(y), 2 * flow.cols, static_cast<float>(pixels), field.row(y));
    });
    return field;
}

Vectors toVectors(const cv::Mat& forward, const cv::Mat& backward, const cv::Mat& a, const cv::Mat& b,
                  int pixels, const std::stop_token& stop) {
    Vectors v;
    TrustBothWays trust = trustOf(forward, backward, a, b, pixels);
    v.forwardTrust = std::move(trust.forward);
    v.backwardTrust = std::move(trust.backward);
    throwIfStopped(stop);
    v.forward = toField(forward, pixels);
    v.backward = toField(backward, pixels);
    return v;
}

} // namespace yarngap
