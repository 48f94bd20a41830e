#include "core/inspection/laid_frames.h"

#include "core/inspection/small_luma.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <memory>

namespace yarngap {

namespace {

constexpr int widestLookedAt = 1920; // pixels
constexpr int motionBlock = 16;      // of which one motion is taken

/// A row of a block, of this frame and of both neighbours.
struct BlockRow {
    const std::uint8_t *now, *leastA, *greatestA, *leastB, *greatestB;
};

void outsideOfRow(const BlockRow& row, std::uint8_t* out, int count) {
    for (int x = 0; x < count; ++x) {
        const std::uint8_t most = std::max(row.greatestA[x], row.greatestB[x]);
        const std::uint8_t least = std::min(row.leastA[x], row.leastB[x]);
        const std::uint8_t now = row.now[x];
        const auto above = static_cast<std::uint8_t>(now > most ? now - most : 0);
        const auto below = static_cast<std::uint8_t>(least > now ? least - now : 0);
        out[x] = std::max(above, below);
    }
}

} // namespace

void takeRanges(Ranges& ranges, const ImagePtr& frame) {
    const bool isPlain =
        frame->width() <= widestLookedAt && frame->layout().depth == 8 && !frame->layout().isFloat();
    ranges.picture = isPlain ? frame : std::make_shared<const Image>(smallLuma(*frame, widestLookedAt));
    const Image::Plane& plane = ranges.picture->plane(0);
    // The view is only read from; OpenCV has no constant view.
    ranges.luma =
        cv::Mat(plane.height, plane.width, CV_8UC1, const_cast<std::byte*>(plane.bytes.data()), plane.stride);
    const cv::Mat around = cv::Mat::ones(3, 3, CV_8U);
    cv::erode(ranges.luma, ranges.least, around);
    cv::dilate(ranges.luma, ranges.greatest, around);
}

cv::Rect insideOf(const cv::Rect& rect, const cv::Size& size) {
    return rect & cv::Rect(0, 0, size.width, size.height);
}

cv::Rect Neighbour::blockFor(const cv::Rect& block) const {
    if (!step.known) return block;
    const double dx = block.x + block.width / 2.0 - 0.5 * ranges.luma.cols;
    const double dy = block.y + block.height / 2.0 - 0.5 * ranges.luma.rows;
    return block +
           cv::Point(
               static_cast<int>(std::lround(sign * (step.x + step.across[0] * dx + step.across[1] * dy))),
               static_cast<int>(std::lround(sign * (step.y + step.across[2] * dx + step.across[3] * dy))));
}

cv::Mat Neighbour::laid(const cv::Rect& part) const {
    cv::Mat out(part.size(), CV_8U);
    for (int y = 0; y < part.height; y += motionBlock)
        for (int x = 0; x < part.width; x += motionBlock) {
            const cv::Rect block =
                cv::Rect(x, y, motionBlock, motionBlock) & cv::Rect(0, 0, part.width, part.height);
            cv::Rect source = blockFor(block + part.tl());
            source.x = std::clamp(source.x, 0, ranges.luma.cols - source.width);
            source.y = std::clamp(source.y, 0, ranges.luma.rows - source.height);
            ranges.luma(source).copyTo(out(block));
        }
    return out;
}

void outsideOf(const cv::Mat& luma, const Neighbour& a, const Neighbour& b, cv::Mat& outside) {
    outside.create(luma.size(), CV_8U);
    const cv::Rect whole(0, 0, luma.cols, luma.rows);
    for (int y = 0; y < luma.rows; y += motionBlock)
        for (int x = 0; x < luma.cols; x += motionBlock) {
            const cv::Rect block = cv::Rect(x, y, motionBlock, motionBlock) & whole;
            const cv::Rect inA = a.blockFor(block);
            const cv::Rect inB = b.blockFor(block);
            if ((inA & whole) != inA || (inB & whole) != inB) {
                outside(block).setTo(0);
                continue;
            }
            for (int line = 0; line < block.height; ++line)
                outsideOfRow({luma.ptr(y + line) + x, a.ranges.least.ptr(inA.y + line) + inA.x,
                              a.ranges.greatest.ptr(inA.y + line) + inA.x,
                              b.ranges.least.ptr(inB.y + line) + inB.x,
                              b.ranges.greatest.ptr(inB.y + line) + inB.x},
                             outside.ptr(y + line) + x, block.width);
        }
}

} // namespace yarngap
