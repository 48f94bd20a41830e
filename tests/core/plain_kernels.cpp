// Compiled, like the core's files beside it, with YARNGAP_PLAIN and another name for the namespace.
#include "core/kernel_calls.h"

#include "core/plain_kernels.h"

namespace plain_kernels {

cv::Mat search(const cv::Mat& from, const cv::Mat& to) {
    return yarngap::search(from, to);
}
std::vector<std::uint8_t> trust(const cv::Mat& forward, const cv::Mat& backward, const cv::Mat& a,
                                const cv::Mat& b) {
    return yarngap::trust(forward, backward, a, b);
}
std::vector<std::int16_t> displacements(const cv::Mat& a, const cv::Mat& b, int reachX, int reachY) {
    return yarngap::displacements(a, b, reachX, reachY);
}
cv::Mat difference(const cv::Mat& lumaA, const cv::Mat& colourA, const cv::Mat& lumaB, const cv::Mat& colourB,
                   const cv::Mat& flow) {
    return yarngap::difference({lumaA, colourA}, {lumaB, colourB}, flow);
}
std::vector<float> moved(const cv::Mat& a, const cv::Mat& b, const cv::Mat& motions, float phase) {
    return yarngap::moved(a, b, motions, phase);
}
std::vector<std::uint8_t> choice(const cv::Mat& x, const cv::Mat& y, const cv::Mat& costs,
                                 const cv::Mat& picture) {
    return yarngap::choice(x, y, costs, picture);
}
cv::Mat filtered(const cv::Mat& picture, const cv::Mat& plane) {
    return yarngap::filtered(picture, plane);
}

} // namespace plain_kernels
