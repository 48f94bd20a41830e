#include "core/motion/aligned_region.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// A picture with its slopes, to be read in between.
struct SmoothPicture {
    cv::Mat values, slopesX, slopesY;

    SmoothPicture(const cv::Mat& picture, double softness) {
        picture.convertTo(values, CV_32F);
        cv::GaussianBlur(values, values, {}, softness);
        constexpr double perPixel = 1.0 / 8; // of Sobel's sums
        cv::Sobel(values, slopesX, CV_32F, 1, 0, 3, perPixel);
        cv::Sobel(values, slopesY, CV_32F, 0, 1, 3, perPixel);
    }
};

double readAt(const cv::Mat& m, double x, double y) {
    const int ix = static_cast<int>(x);
    const int iy = static_cast<int>(y);
    const double fx = x - ix;
    const double fy = y - iy;
    const float* upper = m.ptr<float>(iy) + ix;
    const float* lower = m.ptr<float>(iy + 1) + ix;
    return (1 - fy) * ((1 - fx) * upper[0] + fx * upper[1]) + fy * ((1 - fx) * lower[0] + fx * lower[1]);
}

/// Sums of the normal equations of one step of alignment; see alignedRegion.
struct AlignmentStep {
    cv::Matx<double, 5, 5> left = cv::Matx<double, 5, 5>::zeros();
    cv::Vec<double, 5> right = cv::Vec<double, 5>::zeros();

    void add(const cv::Vec<double, 5>& slope, double difference, double weight) {
        for (int i = 0; i < 5; ++i) {
            for (int j = 0; j < 5; ++j)
                left(i, j) += weight * slope[i] * slope[j];
            right[i] -= weight * slope[i] * difference;
        }
    }
};

/// Turned and grown about `centre`, then shifted, after `h`.
Affine changed(const Affine& h, const PicturePoint& centre, const cv::Vec<double, 5>& by, double reach) {
    const double re = 1 + by[2] / reach;
    const double im = by[3] / reach;
    const double dx = centre.x - re * centre.x + im * centre.y + by[0];
    const double dy = centre.y - im * centre.x - re * centre.y + by[1];
    return {re * h[0] - im * h[3], re * h[1] - im * h[4], re * h[2] - im * h[5] + dx,
            im * h[0] + re * h[3], im * h[1] + re * h[4], im * h[2] + re * h[5] + dy};
}

PicturePoint middleOf(const std::vector<WeighedPixel>& region) {
    PicturePoint middle;
    double sum = 0;
    for (const WeighedPixel& pixel : region) {
        middle = {middle.x + pixel.weight * (pixel.x + halfPixel),
                  middle.y + pixel.weight * (pixel.y + halfPixel)};
        sum += pixel.weight;
    }
    return {middle.x / sum, middle.y / sum};
}

} // namespace

PicturePoint moved(const Affine& h, const PicturePoint& p) {
    return {h[0] * p.x + h[1] * p.y + h[2], h[3] * p.x + h[4] * p.y + h[5]};
}

Affine alignedRegion(const cv::Mat& from, const cv::Mat& to, const Affine& h,
                     const std::vector<WeighedPixel>& region) {
    if (region.empty()) return h;
    const PicturePoint middle = middleOf(region);
    const double reach = from.cols / 10.0; // so that all unknowns are of one size
    Affine now = h;
    for (const double softness : {4.0, 2.0, 1.0}) {
        const SmoothPicture a(from, softness);
        const SmoothPicture b(to, softness);
        double light = 0;
        constexpr int steps = 10;
        for (int step = 0; step < steps; ++step) {
            const PicturePoint centre = moved(now, middle);
            AlignmentStep sums;
            for (const WeighedPixel& pixel : region) {
                const PicturePoint q = moved(now, {pixel.x + halfPixel, pixel.y + halfPixel});
                const double x = q.x - halfPixel;
                const double y = q.y - halfPixel;
                if (!(x >= 0 && y >= 0 && x < to.cols - 1 && y < to.rows - 1)) continue;
                const double difference =
                    readAt(b.values, x, y) - a.values.at<float>(pixel.y, pixel.x) - light;
                constexpr double cutOff = 40; // steps
                const double share = difference / cutOff;
                if (std::abs(share) >= 1) continue;
                const double tukey = (1 - share * share) * (1 - share * share);
                const double gx = readAt(b.slopesX, x, y);
                const double gy = readAt(b.slopesY, x, y);
                const double u = (q.x - centre.x) / reach;
                const double v = (q.y - centre.y) / reach;
                sums.add({gx, gy, gx * u + gy * v, gy * u - gx * v, -1}, difference, pixel.weight * tukey);
            }
            for (int i = 0; i < 5; ++i)
                sums.left(i, i) += 1e-3 * (1 + sums.left(i, i)); // where nothing tells, nothing changes
            const cv::Vec<double, 5> by = sums.left.solve(sums.right, cv::DECOMP_CHOLESKY);
            now = changed(now, centre, by, reach);
            light += by[4];
            constexpr double still = 0.01; // pixels
            if (std::abs(by[0]) + std::abs(by[1]) + std::abs(by[2]) + std::abs(by[3]) < still) break;
        }
    }
    return now;
}

} // namespace yarngap
