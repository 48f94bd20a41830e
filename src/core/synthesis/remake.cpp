#include "core/synthesis/remake.h"

#include "core/motion/analysis_picture.h"
#include "core/progress.h"
#include "core/synthesis/warp.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

namespace yarngap {

namespace {

constexpr int smallestRemade = 32;

/// The samples of a grey picture of 8 bit.
cv::Mat viewOf(Image& image) {
    return {image.height(), image.width(), CV_8U, image.row<std::uint8_t>(0, 0).data(),
            image.plane(0).stride};
}

/// Luma at half the size.
Image halfLuma(const Image& image) {
    const cv::Mat whole = analysisPicture(image, AnalyseOn::asIs);
    Image out((whole.cols + 1) / 2, (whole.rows + 1) / 2, {.model = ColourModel::grey});
    cv::Mat half = viewOf(out);
    cv::resize(whole, half, half.size(), 0, 0, cv::INTER_AREA);
    return out;
}

} // namespace

double remakeError(const Image& before, const Image& frame, const Image& after, double phase,
                   AnalyseOn analyseOn, const std::stop_token& stop) {
    if (frame.width() < smallestRemade || frame.height() < smallestRemade) return 0;
    const Image a = halfLuma(before);
    const Image b = halfLuma(after);
    throwIfStopped(stop);
    const Vectors vectors = estimateFlow(a, b, {.quality = FlowQuality::draft, .analyseOn = analyseOn}, stop);
    WarpedFrame made = warpBetween(a, b, vectors, phase, {}, {}, {}, stop);
    Image truth = halfLuma(frame);
    const cv::Mat known = viewOf(truth);
    return cv::norm(viewOf(made.image), known, cv::NORM_L2SQR) / static_cast<double>(known.total());
}

double RemakeErrors::of(ShotFrames& source, std::int64_t before, std::int64_t n, std::int64_t after,
                        const Image& frame, AnalyseOn analyseOn, const std::stop_token& stop) {
    std::string key = std::string(name(analyseOn)) + ':' + std::to_string(n - before) + '/' +
                      std::to_string(after - before);
    for (const std::int64_t each : {before, n, after})
        key += ':' + source.identityOf(each);
    if (const auto known = errors_.find(key)) return *known;
    const double phase = static_cast<double>(n - before) / static_cast<double>(after - before);
    const double error =
        remakeError(*source.frame(before, stop), frame, *source.frame(after, stop), phase, analyseOn, stop);
    errors_.insert(key, error, entryBytes);
    return error;
}

} // namespace yarngap
