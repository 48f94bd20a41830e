#include "core/motion/row_along.h"

#include "core/widest.h"

#include <opencv2/core.hpp>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstring>

namespace yarngap {

namespace {

constexpr int bits = 5;
constexpr int fine = 1 << bits; // parts of a sample

/// Whole samples, the last but one at most, and what is beyond them.
struct SplitPlace {
    std::int32_t whole, beyond;
};

[[gnu::always_inline]] inline SplitPlace split(float place, std::int32_t last) {
    const float kept = place > 0 ? place : 0; // so is what is not a number
    const auto edge = static_cast<float>(last);
    const auto at = static_cast<std::int32_t>((kept < edge ? kept : edge) * fine + 0.5F);
    const std::int32_t whole = std::min(at >> bits, last - 1);
    return {whole, at - fine * whole};
}

struct Start {
    float left, top, sign;
};

YARNGAP_WIDEST void followRow(const float* motions, int n, const Start& start, int width, int height,
                              std::int32_t* at, std::int32_t* right, std::int32_t* down,
                              std::uint8_t* inside) {
    const Start from = start;
    const auto lastX = static_cast<float>(width - 1);
    const auto lastY = static_cast<float>(height - 1);
#pragma GCC ivdep
    for (int i = 0; i < n; ++i) {
        const float x = from.left + static_cast<float>(i) + from.sign * motions[2 * i];
        const float y = from.top + from.sign * motions[2 * i + 1];
        const SplitPlace across = split(x, width - 1);
        const SplitPlace along = split(y, height - 1);
        at[i] = along.whole * width + across.whole;
        right[i] = across.beyond;
        down[i] = along.beyond;
        const bool in = (x >= 0) & (y >= 0) & (x <= lastX) & (y <= lastY);
        inside[i] = in ? 255 : 0;
    }
}

/// Of four samples around a place, by their distances.
[[gnu::always_inline]] inline std::uint8_t between(std::int32_t a, std::int32_t b, std::int32_t c,
                                                   std::int32_t d, std::int32_t right, std::int32_t down) {
    const std::int32_t upper = fine * a + right * (b - a);
    const std::int32_t lower = fine * c + right * (d - c);
    return static_cast<std::uint8_t>((fine * upper + down * (lower - upper) + fine * fine / 2) >> (2 * bits));
}

[[gnu::always_inline]] inline std::int32_t byteOf(std::uint32_t bytes, unsigned i) {
    return static_cast<std::int32_t>(bytes >> (8 * i) & 255U);
}

YARNGAP_WIDEST void mixOne(const std::uint32_t* above, const std::uint32_t* below, const std::int32_t* right,
                           const std::int32_t* down, int n, std::uint8_t* out) {
#pragma GCC ivdep
    for (int i = 0; i < n; ++i)
        out[i] = between(byteOf(above[i], 0), byteOf(above[i], 1), byteOf(below[i], 0), byteOf(below[i], 1),
                         right[i], down[i]);
}

YARNGAP_WIDEST void mixTwo(const std::uint32_t* above, const std::uint32_t* below, const std::int32_t* right,
                           const std::int32_t* down, int n, std::uint8_t* out) {
#pragma GCC ivdep
    for (int i = 0; i < n; ++i) {
        out[2 * i] = between(byteOf(above[i], 0), byteOf(above[i], 2), byteOf(below[i], 0),
                             byteOf(below[i], 2), right[i], down[i]);
        out[2 * i + 1] = between(byteOf(above[i], 1), byteOf(above[i], 3), byteOf(below[i], 1),
                                 byteOf(below[i], 3), right[i], down[i]);
    }
}

/// The bytes of two neighbours of `channels` each, first byte lowest on every machine we build for.
template <typename Bytes>
void gather(const std::uint8_t* from, std::size_t channels, std::size_t stride,
            const std::vector<std::int32_t>& at, std::vector<std::uint32_t>& above,
            std::vector<std::uint32_t>& below) {
    for (std::size_t i = 0; i < at.size(); ++i) {
        const std::uint8_t* p = from + channels * static_cast<std::size_t>(at[i]);
        Bytes bytes;
        std::memcpy(&bytes, p, sizeof bytes);
        above[i] = bytes;
        std::memcpy(&bytes, p + stride, sizeof bytes);
        below[i] = bytes;
    }
}

} // namespace

RowAlong::RowAlong(int n)
    : at_(static_cast<std::size_t>(n))
    , right_(at_.size())
    , down_(at_.size())
    , above_(at_.size())
    , below_(at_.size())
    , inside_(at_.size()) {}

void RowAlong::follow(const float* motions, float left, float top, float sign, const cv::Size& size) {
    followRow(motions, static_cast<int>(at_.size()), {left, top, sign}, size.width, size.height, at_.data(),
              right_.data(), down_.data(), inside_.data());
}

void RowAlong::read(const cv::Mat& picture, std::uint8_t* out) {
    CV_Assert(picture.isContinuous());
    const auto n = static_cast<int>(at_.size());
    if (picture.type() == CV_8U) {
        gather<std::uint16_t>(picture.data, 1, picture.step, at_, above_, below_);
        mixOne(above_.data(), below_.data(), right_.data(), down_.data(), n, out);
    } else {
        CV_Assert(picture.type() == CV_8UC2);
        gather<std::uint32_t>(picture.data, 2, picture.step, at_, above_, below_);
        mixTwo(above_.data(), below_.data(), right_.data(), down_.data(), n, out);
    }
}

cv::Mat pictureAlong(const cv::Mat& picture, const cv::Mat& flow, const cv::Point& origin, float sign) {
    cv::Mat whole = picture.isContinuous() ? picture : picture.clone();
    const int missingX = std::max(0, 2 - whole.cols); // of a thin picture its edge is read on
    const int missingY = std::max(0, 2 - whole.rows);
    if (missingX + missingY > 0)
        cv::copyMakeBorder(picture, whole, 0, missingY, 0, missingX, cv::BORDER_REPLICATE);
    cv::Mat out(flow.size(), picture.type());
    tbb::parallel_for(tbb::blocked_range<int>(0, flow.rows, 16), [&](const tbb::blocked_range<int>& rows) {
        RowAlong row(flow.cols);
        for (int y = rows.begin(); y < rows.end(); ++y) {
            row.follow(flow.ptr<float>(y), static_cast<float>(origin.x), static_cast<float>(origin.y + y),
                       sign, whole.size());
            row.read(whole, out.ptr<std::uint8_t>(y));
        }
    });
    return out;
}

} // namespace yarngap
