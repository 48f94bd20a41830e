#include "core/inspection/camera_step.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

namespace yarngap {

struct CameraPicture {
    std::vector<cv::Mat> levels; ///< in 8-bit steps, each half as large as the one before
};

namespace {

constexpr int coarsest = 24;     // pixels of the shorter side
constexpr int largeSide = 160;   // pixels of the shorter side, from which half the size is enough for motion
constexpr int sampledSide = 60;  // pixels of the shorter side that are looked at for motion
constexpr int blurredSide = 120; // and for blur

/// Where the contents of each place go; see CameraStep.
struct Motion {
    double x = 0, y = 0;
    std::array<double, 4> across{};
};

/// Both pictures laid on each other.
struct Laid {
    cv::Mat mean, difference;         ///< difference: second less first
    int margin = 0;                   ///< pixels at each edge that one of them does not show
    std::array<cv::Mat, 3> curvature; ///< second derivatives of the mean, xx, xy, yy, where blur is asked for
};

/// Second derivatives over five pixels, of fourth order: those over three come short in fine texture, where
/// most of the blur shows, by a fifth and more.
std::array<cv::Mat, 3> curvatureOf(const cv::Mat& picture) {
    const cv::Matx<float, 1, 5> once(1.0F / 12, -8.0F / 12, 0, 8.0F / 12, -1.0F / 12);
    const cv::Matx<float, 1, 5> twice(-1.0F / 12, 16.0F / 12, -30.0F / 12, 16.0F / 12, -1.0F / 12);
    const cv::Matx<float, 1, 1> as(1);
    std::array<cv::Mat, 3> out;
    cv::sepFilter2D(picture, out[0], CV_32F, twice, as);
    cv::sepFilter2D(picture, out[1], CV_32F, once, once);
    cv::sepFilter2D(picture, out[2], CV_32F, as, twice);
    return out;
}

/// The picture read at each place p + part · motion(p).
cv::Mat moved(const cv::Mat& picture, const Motion& motion, double part, bool finely) {
    const auto& m = motion.across;
    const double cx = 0.5 * (picture.cols - 1);
    const double cy = 0.5 * (picture.rows - 1);
    const cv::Matx23d map(1 + part * m[0], part * m[1], part * (motion.x - m[0] * cx - m[1] * cy), //
                          part * m[2], 1 + part * m[3], part * (motion.y - m[2] * cx - m[3] * cy));
    cv::Mat out;
    cv::warpAffine(picture, out, map, picture.size(),
                   (finely ? cv::INTER_CUBIC : cv::INTER_LINEAR) | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    return out;
}

/// Each moved by half the motion, so that both are read between pixels alike.
Laid laidOnEachOther(const cv::Mat& a, const cv::Mat& b, const Motion& motion, bool finely) {
    const cv::Mat first = moved(a, motion, -0.5, finely);
    const cv::Mat second = moved(b, motion, 0.5, finely);
    const auto& m = motion.across;
    const double sideways = std::abs(motion.x) + std::abs(m[0]) * a.cols / 2 + std::abs(m[1]) * a.rows / 2;
    const double upwards = std::abs(motion.y) + std::abs(m[2]) * a.cols / 2 + std::abs(m[3]) * a.rows / 2;
    constexpr int kernel = 3;
    return {(first + second) * 0.5,
            second - first,
            static_cast<int>(std::ceil(std::max(sideways, upwards) / 2)) + kernel,
            {}};
}

/// Terms of the regression: motion (its value and its change across the picture, in units of half its width),
/// light (offset and gain), and then blur.
constexpr int motionTerms = 8;
constexpr int allTerms = 11;

/// Pixels looked at side by side, so that the compiler takes several in one instruction.
constexpr int lanes = 8;
template <int count>
using Lanes = std::array<std::array<float, lanes>, count>;

template <int count>
constexpr int sumsOf = count*(count + 1) / 2 + count;

/// Sums of products of terms over pixels, and of terms with what is to be explained.
template <int count>
struct Sums {
    Lanes<sumsOf<count>> of{};

    void add(const Lanes<count>& terms, const std::array<float, lanes>& left,
             const std::array<float, lanes>& counted) {
        std::size_t at = 0;
        for (std::size_t i = 0; i < count; ++i) {
            std::array<float, lanes> term;
            for (std::size_t l = 0; l < lanes; ++l)
                term[l] = terms[i][l] * counted[l];
            for (std::size_t j = 0; j <= i; ++j, ++at)
                for (std::size_t l = 0; l < lanes; ++l)
                    of[at][l] += term[l] * terms[j][l];
            for (std::size_t l = 0; l < lanes; ++l)
                of[at][l] += term[l] * left[l];
            ++at;
        }
    }

    void addTo(cv::Matx<double, count, count>& normal, cv::Matx<double, count, 1>& right) const {
        std::size_t at = 0;
        const auto sum = [&] {
            double all = 0;
            for (const float value : of[at])
                all += static_cast<double>(value);
            ++at;
            return all;
        };
        for (int i = 0; i < count; ++i) {
            for (int j = 0; j <= i; ++j)
                normal(i, j) = normal(j, i) += sum();
            right(i) += sum();
        }
    }
};

template <int count>
struct Fit {
    bool found = false;
    std::array<float, count> of{};
    double left = 0; ///< square of what it leaves at most pixels, over the variance of the picture
};

/// Regression of the difference on the terms, over every `every`th pixel each way; pixels further off it than
/// 2.5 medians are left out in all rounds but the first. Nothing where the picture has no detail.
template <int count>
Fit<count> fit(const Laid& laid, int every, int rounds) {
    Fit<count> made;
    const int width = laid.mean.cols;
    const int height = laid.mean.rows;
    const int m = laid.margin;
    if (width - 2 * m < lanes * every || height - 2 * m < lanes) return made;
    float most = 1e9F;
    constexpr int bins = 512;
    constexpr float perStep = 8; // bins
    const float unit = 2.0F / static_cast<float>(width);
    for (int round = 0; round < rounds; ++round) {
        auto normal = cv::Matx<double, count, count>::zeros();
        auto right = cv::Matx<double, count, 1>::zeros();
        std::array<std::int64_t, bins> histogram{};
        std::int64_t seen = 0;
        double used = 0;
        for (int y = m; y < height - m; y += every) {
            const auto* above = laid.mean.ptr<float>(y - 1);
            const auto* row = laid.mean.ptr<float>(y);
            const auto* below = laid.mean.ptr<float>(y + 1);
            const auto* difference = laid.difference.ptr<float>(y);
            std::array<const float*, 3> curvature{};
            if constexpr (count == allTerms)
                for (std::size_t i = 0; i < curvature.size(); ++i)
                    curvature[i] = laid.curvature[i].ptr<float>(y);
            const float up = (static_cast<float>(y) - 0.5F * static_cast<float>(height)) * unit;
            Sums<count> sums;
            for (int begin = m; begin + (lanes - 1) * every < width - m; begin += lanes * every) {
                Lanes<count> terms;
                std::array<float, lanes> left;
                std::array<float, lanes> counted;
                for (std::size_t l = 0; l < lanes; ++l) {
                    const int x = begin + static_cast<int>(l) * every;
                    const float gx = 0.5F * (row[x + 1] - row[x - 1]);
                    const float gy = 0.5F * (below[x] - above[x]);
                    const float along = static_cast<float>(x) * unit - 1.0F;
                    terms[0][l] = gx;
                    terms[1][l] = gy;
                    terms[2][l] = gx * along;
                    terms[3][l] = gx * up;
                    terms[4][l] = gy * along;
                    terms[5][l] = gy * up;
                    terms[6][l] = 1;
                    terms[7][l] = row[x];
                    if constexpr (count == allTerms) {
                        terms[8][l] = curvature[0][x];
                        terms[9][l] = curvature[1][x];
                        terms[10][l] = curvature[2][x];
                    }
                    left[l] = difference[x];
                }
                for (std::size_t i = 0; i < count; ++i)
                    for (std::size_t l = 0; l < lanes; ++l)
                        left[l] -= made.of[i] * terms[i][l];
                for (std::size_t l = 0; l < lanes; ++l) {
                    const float off = std::abs(left[l]);
                    ++histogram[static_cast<std::size_t>(std::min(off * perStep, bins - 1.0F))];
                    counted[l] = off <= most ? 1.0F : 0.0F;
                    used += static_cast<double>(counted[l]);
                }
                seen += lanes;
                sums.add(terms, left, counted);
            }
            sums.addTo(normal, right);
        }
        if (std::min(normal(0, 0), normal(1, 1)) < used) return {}; // hardly a gradient
        cv::Matx<double, count, 1> change;
        if (!cv::solve(normal, right, change, cv::DECOMP_CHOLESKY)) return {};
        for (int i = 0; i < count; ++i)
            made.of[static_cast<std::size_t>(i)] += static_cast<float>(change(i));
        std::int64_t below = 0;
        int median = 0;
        while (median < bins - 1 && (below += histogram[static_cast<std::size_t>(median)]) * 2 < seen)
            ++median;
        constexpr float rounding = 1.5F; // of the samples
        most = std::max(rounding, 2.5F * (static_cast<float>(median) + 0.5F) / perStep + 0.5F);
        const double deviation = 1.4826 * (median + 0.5) / static_cast<double>(perStep);
        const double brightness = normal(7, 6) / used;
        made.left = deviation * deviation / std::max(1.0, normal(7, 7) / used - brightness * brightness);
    }
    made.found = true;
    return made;
}

/// In 8-bit steps.
cv::Mat floats(const Image& image) {
    const Image::Plane& plane = image.plane(0);
    // The view is only read from; OpenCV has no constant view.
    const bool deep = image.layout().depth > 8;
    const cv::Mat view(plane.height, plane.width, deep ? CV_16UC1 : CV_8UC1,
                       const_cast<std::byte*>(plane.bytes.data()), plane.stride);
    cv::Mat out;
    view.convertTo(out, CV_32F, 255.0 / image.layout().maxValue());
    return out;
}

int shorter(const cv::Mat& picture) {
    return std::min(picture.cols, picture.rows);
}

constexpr double lost = std::numeric_limits<double>::infinity();

/// Betters `motion` until it stands still, `most` times at most; what it leaves (see Fit), or `lost`.
double better(Motion& motion, const cv::Mat& a, const cv::Mat& b, int most) {
    constexpr double still = 0.05; // pixels
    const double unit = 2.0 / a.cols;
    double left = 0;
    for (int turn = 0; turn < most; ++turn) {
        const auto found = fit<motionTerms>(laidOnEachOther(a, b, motion, false),
                                            std::max(1, shorter(a) / sampledSide), turn == 0 ? 3 : 2);
        if (!found.found) return lost;
        const auto change = [&](std::size_t i) { return static_cast<double>(found.of[i]); };
        motion.x -= change(0);
        motion.y -= change(1);
        bool apart = !(std::abs(motion.x) < a.cols && std::abs(motion.y) < a.rows);
        for (std::size_t i = 0; i < 4; ++i) {
            motion.across[i] -= change(2 + i) * unit;
            apart = apart || !(std::abs(motion.across[i]) < 1);
        }
        if (apart) return lost; // too little detail to tell, and nothing of the pictures lies on each other
        left = found.left;
        if (std::hypot(change(0), change(1)) < still) break;
    }
    return left;
}

} // namespace

CameraStep CameraStep::scaled(double scale) const {
    CameraStep other = *this;
    other.x *= scale;
    other.y *= scale;
    for (double& moment : other.blur)
        moment *= scale * scale;
    return other;
}

CameraPicturePtr cameraPicture(const Image& grey) {
    auto picture = std::make_shared<CameraPicture>();
    std::vector<cv::Mat>& levels = picture->levels;
    levels.push_back(floats(grey));
    while (shorter(levels.back()) >= 2 * coarsest) {
        cv::Mat smaller;
        cv::pyrDown(levels.back(), smaller);
        levels.push_back(smaller);
    }
    return picture;
}

CameraStep cameraStep(const CameraPicture& a, const CameraPicture& b) {
    CameraStep step;
    const std::vector<cv::Mat>& first = a.levels;
    const std::vector<cv::Mat>& second = b.levels;
    if (first[0].size() != second[0].size()) return step;
    const std::size_t finest = shorter(first[0]) >= largeSide ? 1 : 0;
    Motion motion;
    double left = lost;
    for (std::size_t level = first.size(); level-- > finest;) {
        const int most = level + 1 == first.size() ? 6 : 3;
        left = better(motion, first[level], second[level], most);
        if (left == lost) return step;
        if (level > 0) {
            motion.x *= 2;
            motion.y *= 2;
        }
    }
    constexpr double most = 0.5; // pictures that have nothing in common leave four times their variance
    step.known = left < most;
    step.x = motion.x;
    step.y = motion.y;
    step.across = motion.across;
    return step;
}

namespace {

constexpr int cellColumns = 16;
constexpr int cellRows = 9;

/// Means of |difference| over blocks of 8 x 8 pixels.
cv::Mat blockMeans(const cv::Mat& difference) {
    constexpr int side = 8;
    cv::Mat means;
    cv::resize(cv::abs(difference), means,
               {std::max(1, difference.cols / side), std::max(1, difference.rows / side)}, 0, 0,
               cv::INTER_AREA);
    return means;
}

} // namespace

CellChanges changesBesideCamera(const CameraStep& step, const CameraPicture& a, const CameraPicture& b) {
    CellChanges cells{};
    const cv::Mat& first = a.levels[0];
    const cv::Mat& second = b.levels[0];
    if (first.size() != second.size()) {
        cells.fill(255);
        return cells;
    }
    cv::Mat blocks = blockMeans(second - first);
    if (step.known) {
        const Laid laid = laidOnEachOther(first, second, {step.x, step.y, step.across}, false);
        blocks = cv::min(blocks, blockMeans(laid.difference));
    }
    for (int y = 0; y < blocks.rows; ++y)
        for (int x = 0; x < blocks.cols; ++x) {
            constexpr float perStep = 4;
            const float value = std::min(255.0F, perStep * blocks.at<float>(y, x));
            const int cell = y * cellRows / blocks.rows * cellColumns + x * cellColumns / blocks.cols;
            auto& kept = cells.at(static_cast<std::size_t>(cell));
            kept = std::max(kept, static_cast<std::uint8_t>(value + 0.5F));
        }
    return cells;
}

void measureBlur(CameraStep& step, const CameraPicture& a, const CameraPicture& b) {
    if (!step.known) return;
    const cv::Mat& first = a.levels[0];
    const cv::Mat& second = b.levels[0];
    Motion motion{step.x, step.y, step.across};
    if (better(motion, first, second, 1) == lost) return;
    Laid laid = laidOnEachOther(first, second, motion, true);
    laid.curvature = curvatureOf(laid.mean);
    const auto found = fit<allTerms>(laid, std::max(1, shorter(first) / blurredSide), 3);
    if (!found.found) return;
    step.x = motion.x;
    step.y = motion.y;
    step.across = motion.across;
    const auto moment = [&](std::size_t i) { return static_cast<double>(found.of[i]); };
    step.blur = {2 * moment(8), moment(9), 2 * moment(10)};
    step.blurKnown = true;
}

} // namespace yarngap
