#include "core/synthesis/remake.h"

#include "core/motion/analysis_picture.h"
#include "core/progress.h"
#include "core/synthesis/warp.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

namespace yarngap {

namespace {

constexpr int smallestRemade = 32;

/// Luma at half the size, as a grey picture of 8 bit.
Image halfLuma(const Image& image) {
    const cv::Mat whole = analysisPicture(image, AnalyseOn::asIs);
    Image out((whole.cols + 1) / 2, (whole.rows + 1) / 2, {.model = ColourModel::grey});
    cv::Mat view(out.height(), out.width(), CV_8U, out.row<std::uint8_t>(0, 0).data(), out.plane(0).stride);
    cv::resize(whole, view, view.size(), 0, 0, cv::INTER_AREA);
    return out;
}

double meanSquare(const Image& a, const Image& b) {
    double sum = 0; // of whole numbers, so that it is the same in any order
    for (int y = 0; y < a.height(); ++y) {
        const auto rowA = a.row<std::uint8_t>(0, y);
        const auto rowB = b.row<std::uint8_t>(0, y);
        std::int64_t row = 0;
        for (std::size_t x = 0; x < rowA.size(); ++x) {
            const int d = rowA[x] - rowB[x];
            row += static_cast<std::int64_t>(d) * d;
        }
        sum += static_cast<double>(row);
    }
    return sum / (static_cast<double>(a.width()) * a.height());
}

} // namespace

double remakeError(const Image& before, const Image& frame, const Image& after, double phase,
                   AnalyseOn analyseOn, const std::stop_token& stop) {
    if (frame.width() < smallestRemade || frame.height() < smallestRemade) return 0;
    const Image a = halfLuma(before);
    const Image b = halfLuma(after);
    throwIfStopped(stop);
    const Vectors vectors = estimateFlow(a, b, {.quality = FlowQuality::draft, .analyseOn = analyseOn}, stop);
    const WarpedFrame made = warpBetween(a, b, vectors, phase, {}, {}, {}, stop);
    return meanSquare(made.image, halfLuma(frame));
}

double RemakeErrors::of(ShotFrames& source, std::int64_t before, std::int64_t n, std::int64_t after,
                        const Image& frame, AnalyseOn analyseOn, const std::stop_token& stop) {
    const std::string key = source.identity() + ':' + std::to_string(before) + ':' + std::to_string(n) + ':' +
                            std::to_string(after) + ':' + std::string(name(analyseOn));
    if (const auto known = errors_.find(key)) return *known;
    const double phase = static_cast<double>(n - before) / static_cast<double>(after - before);
    const double error =
        remakeError(*source.frame(before, stop), frame, *source.frame(after, stop), phase, analyseOn, stop);
    errors_.insert(key, error, entryBytes);
    return error;
}

} // namespace yarngap
