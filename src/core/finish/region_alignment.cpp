#include "core/finish/region_alignment.h"

#include "core/synthesis/spline_plane.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// A part of a picture, softened, with its slopes; places are those of the picture.
class SoftPart {
  public:
    SoftPart(const cv::Mat& picture, const PicturePoint& middle, double reach, double deviation)
        : size_(picture.size())
        , box_(boxOf(picture, middle, reach, deviation))
        , values_(softened(picture(box_), deviation))
        , spline_(box_.width, box_.height,
                  [this](int y, float* row) { std::copy_n(values_.ptr<float>(y), box_.width, row); }) {
        cv::Sobel(values_, slopesX_, CV_32F, 1, 0, 1, 0.5);
        cv::Sobel(values_, slopesY_, CV_32F, 0, 1, 1, 0.5);
    }

    /// Whether a place lies in the picture, and in the part.
    [[nodiscard]] bool has(double x, double y) const {
        constexpr double edge = 1;
        return x >= edge && y >= edge && x <= size_.width - edge && y <= size_.height - edge &&
               x - box_.x >= edge && y - box_.y >= edge && x - box_.x <= box_.width - edge - 1 &&
               y - box_.y <= box_.height - edge - 1;
    }
    struct Read {
        float value, slopeX, slopeY;
    };
    [[nodiscard]] Read operator()(double x, double y) const {
        const double px = x - box_.x - 0.5;
        const double py = y - box_.y - 0.5;
        const int ix = std::clamp(static_cast<int>(px), 0, box_.width - 2);
        const int iy = std::clamp(static_cast<int>(py), 0, box_.height - 2);
        const auto fx = static_cast<float>(px - ix);
        const auto fy = static_cast<float>(py - iy);
        const auto between = [&](const cv::Mat& m) {
            const float* upper = m.ptr<float>(iy) + ix;
            const float* lower = m.ptr<float>(iy + 1) + ix;
            return (1 - fy) * ((1 - fx) * upper[0] + fx * upper[1]) +
                   fy * ((1 - fx) * lower[0] + fx * lower[1]);
        };
        return {spline_(static_cast<float>(px), static_cast<float>(py)), between(slopesX_),
                between(slopesY_)};
    }

  private:
    static cv::Rect boxOf(const cv::Mat& picture, const PicturePoint& middle, double reach,
                          double deviation) {
        const double around = 1.5 * reach + 3 * deviation + 8;
        const auto begin = [&](double m) { return static_cast<int>(std::floor(m - around)); };
        const int side = static_cast<int>(2 * around) + 2;
        cv::Rect box = cv::Rect(begin(middle.x), begin(middle.y), side, side) &
                       cv::Rect(0, 0, picture.cols, picture.rows);
        if (box.width < 4 || box.height < 4)
            box = {0, 0, std::min(4, picture.cols), std::min(4, picture.rows)};
        return box;
    }
    static cv::Mat softened(const cv::Mat& part, double deviation) {
        cv::Mat out;
        cv::GaussianBlur(part, out, {}, deviation, deviation, cv::BORDER_REFLECT);
        return out;
    }

    cv::Size size_;
    cv::Rect box_;
    cv::Mat values_, slopesX_, slopesY_;
    SplinePlane spline_;
};

constexpr int unknowns = 6; // shift, size, turn, contrast, light
using Row = cv::Vec<double, unknowns>;
using Normal = cv::Matx<double, unknowns, unknowns>;

struct Residual {
    Row slopes;
    double difference;
    float own, there; ///< values of the region and of the picture
};

/// Alignment at one softness.
class Aligning {
  public:
    Aligning(const SoftPart& part, const Region& region, std::size_t level, const AlignedRegion& start)
        : part_(part)
        , region_(region)
        , samples_(region.samples(level))
        , now_(start) {}

    AlignedRegion run() {
        constexpr int most = 20;
        for (int i = 0; i < most; ++i) {
            collect();
            if (residuals_.size() < 16) break;
            const cv::Vec<double, unknowns> by = solve();
            const double re = 1 + by[2] / region_.reach();
            const double im = by[3] / region_.reach();
            now_.at = {now_.at.x + by[0], now_.at.y + by[1]};
            const double a = re * now_.a - im * now_.b;
            now_.b = im * now_.a + re * now_.b;
            now_.a = a;
            contrast_ += by[4];
            light_ += by[5];
            constexpr double still = 0.002; // pixels
            if (i > 1 && std::abs(by[0]) + std::abs(by[1]) + std::abs(by[2]) + std::abs(by[3]) < still) break;
        }
        judge();
        return now_;
    }

  private:
    void collect() {
        residuals_.clear();
        const double size2 = now_.a * now_.a + now_.b * now_.b;
        for (const Region::Sample& s : samples_) {
            const double u = now_.a * static_cast<double>(s.x) - now_.b * static_cast<double>(s.y);
            const double v = now_.b * static_cast<double>(s.x) + now_.a * static_cast<double>(s.y);
            const double x = now_.at.x + u;
            const double y = now_.at.y + v;
            if (!part_.has(x, y)) continue;
            const SoftPart::Read read = part_(x, y);
            // Slopes of both: those of the region as it lies now.
            const double sx =
                (now_.a * static_cast<double>(s.slopeX) - now_.b * static_cast<double>(s.slopeY)) / size2;
            const double sy =
                (now_.b * static_cast<double>(s.slopeX) + now_.a * static_cast<double>(s.slopeY)) / size2;
            const double gx = (static_cast<double>(read.slopeX) + contrast_ * sx) / 2;
            const double gy = (static_cast<double>(read.slopeY) + contrast_ * sy) / 2;
            const double ru = u / region_.reach();
            const double rv = v / region_.reach();
            const auto own = static_cast<double>(s.value);
            residuals_.push_back({{gx, gy, gx * ru + gy * rv, gy * ru - gx * rv, -own, -1},
                                  static_cast<double>(read.value) - contrast_ * own - light_,
                                  s.value,
                                  read.value});
        }
        if (!begun_) begin();
    }

    /// Light and contrast to begin with, by medians: a part may be hidden.
    void begin() {
        begun_ = true;
        std::vector<double> values;
        for (const Residual& r : residuals_)
            values.push_back(r.difference);
        if (values.empty()) return;
        const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
        std::nth_element(values.begin(), middle, values.end());
        light_ = *middle;
        for (Residual& r : residuals_)
            r.difference -= light_;
    }

    /// Tukey's weights, cut off by the median of what is left.
    void weigh() {
        std::vector<double> off;
        off.reserve(residuals_.size());
        for (const Residual& r : residuals_)
            off.push_back(std::abs(r.difference));
        const auto middle = off.begin() + static_cast<std::ptrdiff_t>(off.size() / 2);
        std::nth_element(off.begin(), middle, off.end());
        constexpr double tukey = 4.685;
        constexpr double ofMedian = 1.4826;
        constexpr double least = 3; // of 255
        const double cut = std::max(least, tukey * ofMedian * *middle);
        weights_.clear();
        for (const Residual& r : residuals_) {
            const double share = r.difference / cut;
            const double rest = std::max(0.0, 1 - share * share);
            weights_.push_back(rest * rest);
        }
    }

    cv::Vec<double, unknowns> solve() {
        weigh();
        Normal left = Normal::zeros();
        Row right = Row::zeros();
        for (std::size_t i = 0; i < residuals_.size(); ++i) {
            const Row& s = residuals_[i].slopes;
            for (int j = 0; j < unknowns; ++j) {
                for (int k = j; k < unknowns; ++k)
                    left(j, k) += weights_[i] * s[j] * s[k];
                right[j] -= weights_[i] * s[j] * residuals_[i].difference;
            }
        }
        for (int j = 0; j < unknowns; ++j) {
            for (int k = 0; k < j; ++k)
                left(j, k) = left(k, j);
            left(j, j) += 1e-6 * (1 + left(j, j));
        }
        normal_ = left;
        return left.solve(right, cv::DECOMP_CHOLESKY);
    }

    void judge() {
        now_.inside = static_cast<double>(residuals_.size()) /
                      static_cast<double>(std::max<std::size_t>(1, samples_.size()));
        now_.alike = 0;
        now_.counted = 0;
        now_.uncertainty = 1e9;
        if (residuals_.size() < 16 || weights_.size() != residuals_.size()) return;
        double sum = 0;
        double own = 0;
        double there = 0;
        double off2 = 0;
        for (std::size_t i = 0; i < residuals_.size(); ++i) {
            const Residual& r = residuals_[i];
            sum += weights_[i];
            own += weights_[i] * static_cast<double>(r.own);
            there += weights_[i] * static_cast<double>(r.there);
            off2 += weights_[i] * r.difference * r.difference;
        }
        if (!(sum > 0)) return;
        double both = 0;
        double own2 = 0;
        double there2 = 0;
        for (std::size_t i = 0; i < residuals_.size(); ++i) {
            const double o = static_cast<double>(residuals_[i].own) - own / sum;
            const double t = static_cast<double>(residuals_[i].there) - there / sum;
            both += weights_[i] * o * t;
            own2 += weights_[i] * o * o;
            there2 += weights_[i] * t * t;
        }
        now_.counted = sum / static_cast<double>(residuals_.size());
        now_.alike = both / std::sqrt(std::max(1e-9, own2 * there2));
        if (contrast_ < 0.25 || contrast_ > 4) now_.alike = 0; // another thing
        // Softened noise is alike over about twelve pixels, 4 π times the softness squared.
        constexpr double alikeOver = 3.5;
        const Normal covariance = normal_.inv(cv::DECOMP_CHOLESKY) * (off2 / sum);
        const double xx = covariance(0, 0);
        const double yy = covariance(1, 1);
        const double xy = covariance(0, 1);
        const double worst = (xx + yy) / 2 + std::sqrt((xx - yy) * (xx - yy) / 4 + xy * xy);
        now_.uncertainty = alikeOver * std::sqrt(std::max(0.0, worst));
    }

    const SoftPart& part_;
    const Region& region_;
    const std::vector<Region::Sample>& samples_;
    AlignedRegion now_;
    double contrast_ = 1;
    double light_ = 0;
    bool begun_ = false;
    std::vector<Residual> residuals_;
    std::vector<double> weights_;
    Normal normal_ = Normal::eye();
};

} // namespace

Region::Region(const cv::Mat& picture, const PicturePoint& at, double reach)
    : picture_(picture)
    , at_(at)
    , reach_(reach) {
    constexpr double wanted = 3000; // samples tell enough
    const double step = std::max(1.0, 2 * reach / std::sqrt(wanted));
    const int side = static_cast<int>(reach / step);
    for (std::size_t level = 0; level < levels_.size(); ++level) {
        const SoftPart part(picture, at, reach, alignmentSoftness[level]);
        double sum = 0;
        for (int j = -side; j <= side; ++j)
            for (int i = -side; i <= side; ++i) {
                const double x = i * step;
                const double y = j * step;
                if (!part.has(at.x + x, at.y + y)) continue;
                const SoftPart::Read read = part(at.x + x, at.y + y);
                sum += static_cast<double>(read.value);
                levels_[level].push_back(
                    {static_cast<float>(x), static_cast<float>(y), read.value, read.slopeX, read.slopeY});
            }
        const auto mean =
            static_cast<float>(sum / static_cast<double>(std::max<std::size_t>(1, levels_[level].size())));
        for (Sample& s : levels_[level])
            s.value -= mean;
    }
}

bool Region::canBeHeld() const {
    double xx = 0;
    double yy = 0;
    double xy = 0;
    const auto& samples = levels_.back();
    for (const Sample& s : samples) {
        xx += static_cast<double>(s.slopeX) * static_cast<double>(s.slopeX);
        yy += static_cast<double>(s.slopeY) * static_cast<double>(s.slopeY);
        xy += static_cast<double>(s.slopeX) * static_cast<double>(s.slopeY);
    }
    if (samples.size() < 16) return false;
    const double weakest = (xx + yy) / 2 - std::sqrt((xx - yy) * (xx - yy) / 4 + xy * xy);
    constexpr double flat = 0.25; // of 255 in a pixel, of the mean square: below it there is but noise
    return weakest / static_cast<double>(samples.size()) > flat * flat;
}

namespace {

AlignedRegion alignedFrom(std::size_t first, const cv::Mat& picture, const Region& region,
                          const AlignedRegion& start) {
    AlignedRegion now = start;
    for (std::size_t level = first; level < alignmentSoftness.size(); ++level) {
        const SoftPart part(picture, now.at, region.reach() * std::max(1.0, std::hypot(now.a, now.b)),
                            alignmentSoftness[level]);
        now = Aligning(part, region, level, now).run();
        if (now.inside <= 0 || !std::isfinite(now.at.x) || !std::isfinite(now.at.y)) return {.at = start.at};
    }
    return now;
}

} // namespace

AlignedRegion alignedWith(const cv::Mat& picture, const Region& region, const AlignedRegion& start) {
    AlignedRegion best{.at = start.at};
    for (std::size_t first = 0; first < alignmentSoftness.size(); ++first) {
        const bool isLast = first + 1 == alignmentSoftness.size();
        if (alignmentSoftness[first] * 3 > region.reach() && !isLast) continue;
        const AlignedRegion found = alignedFrom(first, picture, region, start);
        // Far away only soft pictures lead there; where a part is hidden they smear what hides it over the
        // rest.
        if (found.alike * found.counted > best.alike * best.counted) best = found;
        constexpr double sure = 0.8;
        if (best.alike * best.counted > sure) break;
    }
    return best;
}

} // namespace yarngap
