#include "core/inspection/camera_shake.h"

#include "core/inspection/median.h"
#include "core/inspection/small_luma.h"
#include "core/progress.h"

#include <opencv2/core.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yarngap {

namespace {

using Vec = cv::Vec2d;
using Moments = cv::Vec3d; // (xx − yy) / √2, √2 xy, (xx + yy) / √2: of equal weight, the last apart

constexpr double root = std::numbers::sqrt2;

Moments turned(double xx, double xy, double yy) {
    return {(xx - yy) / root, root * xy, (xx + yy) / root};
}

/// v₁ v₁ᵀ − v₀ v₀ᵀ.
Moments growth(const Vec& v0, const Vec& v1) {
    return turned(v1[0] * v1[0] - v0[0] * v0[0], v1[0] * v1[1] - v0[0] * v0[1],
                  v1[1] * v1[1] - v0[1] * v0[1]);
}

/// Gaps in a row whose motion is known.
struct Run {
    std::int64_t gap = 0;      ///< the first
    std::vector<Vec> mean;     ///< speed in each gap
    std::vector<Vec> spline;   ///< speed at each frame, one more
    std::vector<Moments> blur; ///< change of blur over each gap
    std::vector<bool> blurKnown;
};

/// How the blur of a shot follows its motion.
struct Law {
    double growth = 0;               ///< g
    double certainty = 0;            ///< g over its standard error
    std::array<double, 3> scatter{}; ///< standard deviation of what is left of each moment
};

/// Speeds by the cubic spline through the positions, free at its ends: the least energy Σ 4 (a² + ab + b²),
/// with a and b the speeds at both ends of a gap less the mean speed in it.
std::vector<Vec> splineSpeeds(const std::vector<Vec>& mean) {
    const std::size_t frames = mean.size() + 1;
    std::vector<Vec> speed(frames);
    std::vector<double> above(frames, 0.0);
    for (std::size_t k = 0; k < frames; ++k) { // tridiagonal: 2, 8 (4 at the ends), 2
        const bool last = k + 1 == frames;
        Vec right(0, 0);
        if (k > 0) right += mean[k - 1] * 6.0;
        if (!last) right += mean[k] * 6.0;
        double pivot = k == 0 || last ? 4 : 8;
        if (k > 0) {
            pivot -= 2 * above[k - 1];
            right -= speed[k - 1] * 2.0;
        }
        above[k] = 2 / pivot;
        speed[k] = right / pivot;
    }
    for (std::size_t k = frames - 1; k-- > 0;)
        speed[k] -= speed[k + 1] * above[k];
    return speed;
}

std::vector<Run> runsOf(std::span<const CameraStep> steps) {
    std::vector<Run> runs;
    std::vector<double> shared;
    for (std::size_t n = 0; n < steps.size(); ++n) {
        const CameraStep& step = steps[n];
        if (!step.known) continue;
        if (n == 0 || !steps[n - 1].known) runs.push_back({static_cast<std::int64_t>(n), {}, {}, {}, {}});
        Run& run = runs.back();
        run.mean.emplace_back(step.x, step.y);
        run.blur.push_back(turned(step.blur[0], step.blur[1], step.blur[2]));
        run.blurKnown.push_back(step.blurKnown);
        if (step.blurKnown) shared.push_back(run.blur.back()[2]);
    }
    const double middle = median(shared); // what all frames gain or lose together is no motion
    for (Run& run : runs) {
        run.spline = splineSpeeds(run.mean);
        for (Moments& blur : run.blur)
            blur[2] -= middle;
    }
    return runs;
}

/// A gap with others on both sides.
struct Known {
    Vec first, last; ///< speeds of the spline
    Moments blur;
};

std::vector<Known> innerGaps(const std::vector<Run>& runs) {
    std::vector<Known> known;
    for (const Run& run : runs)
        for (std::size_t k = 1; k + 1 < run.mean.size(); ++k)
            if (run.blurKnown[k]) known.push_back({run.spline[k], run.spline[k + 1], run.blur[k]});
    return known;
}

Law fitted(const std::vector<Known>& known) {
    Law law;
    law.scatter = {1, 1, 1};
    std::array<double, 3> limit{1e9, 1e9, 1e9};
    constexpr int rounds = 4;
    for (int round = 0; round < rounds; ++round) {
        double xy = 0;
        double xx = 0;
        for (const Known& k : known) {
            const Moments x = growth(k.first, k.last);
            for (int i = 0; i < 3; ++i) {
                const double left = k.blur[i] - law.growth * x[i];
                if (std::abs(left) > limit[static_cast<std::size_t>(i)]) continue;
                const double weight =
                    1 / (law.scatter[static_cast<std::size_t>(i)] * law.scatter[static_cast<std::size_t>(i)]);
                xy += weight * x[i] * k.blur[i];
                xx += weight * x[i] * x[i];
            }
        }
        if (xx <= 0) return {};
        law.growth = xy / xx;
        law.certainty = xy / std::sqrt(xx);
        std::array<std::vector<double>, 3> off;
        for (const Known& k : known) {
            const Moments left = k.blur - law.growth * growth(k.first, k.last);
            for (int i = 0; i < 3; ++i)
                off[i == 2 ? 1 : 0].push_back(std::abs(left[i]));
        }
        constexpr double least = 1e-4; // square pixels: far below what can be measured
        for (std::size_t i = 0; i < 3; ++i) {
            const std::vector<double>& group = off[i == 2 ? 1 : 0];
            constexpr double cut = 4;
            const double spread = 1.4826 * median(group) + least;
            limit[i] = cut * spread;
            double sum = 0;
            int count = 0;
            for (const double value : group)
                if (value <= limit[i]) {
                    sum += value * value;
                    ++count;
                }
            law.scatter[i] = std::sqrt(sum / count) + least;
        }
    }
    return law;
}

/// Variance of the spline's speeds where speed wanders by 1: of the tridiagonal matrix of splineSpeeds,
/// turned over, 1 / √48 inside and 1 / √12 at the ends of a long run. A speed and the next one go against
/// each other by 2 − √3 of that.
const double splineVariance = 1 / std::sqrt(48.0);
const double splineVarianceAtEnds = 1 / std::sqrt(12.0);
const double against = 2 - std::sqrt(3.0);

/// How much speed wanders in the time of a gap: the square of the third differences of the positions, whose
/// mean it is, by their median.
double wandering(const std::vector<Run>& runs) {
    std::vector<double> changes;
    for (const Run& run : runs)
        for (std::size_t k = 1; k + 1 < run.mean.size(); ++k) {
            const Vec change = run.mean[k - 1] - 2 * run.mean[k] + run.mean[k + 1];
            changes.push_back(std::abs(change[0]));
            changes.push_back(std::abs(change[1]));
        }
    const double deviation = 1.4826 * median(changes);
    return deviation * deviation;
}

constexpr int candidates = 128; // speeds at each frame

/// Points of a normal distribution in the plane, spread evenly: Halton's sequence through Box and Muller's
/// transform.
std::vector<cv::Vec2f> normalPoints() {
    const auto halton = [](int n, int base) {
        double value = 0;
        for (double digit = 1.0 / base; n > 0; n /= base, digit /= base)
            value += digit * (n % base);
        return value;
    };
    std::vector<cv::Vec2f> out;
    out.reserve(candidates);
    for (int n = 1; n <= candidates; ++n) {
        const double radius = std::sqrt(-2 * std::log(halton(n, 2)));
        const double angle = 2 * std::numbers::pi * halton(n, 3);
        out.emplace_back(static_cast<float>(radius * std::cos(angle)),
                         static_cast<float>(radius * std::sin(angle)));
    }
    return out;
}

using Weights = std::vector<float>;

/// What positions and blur tell of a gap.
struct Expected {
    Vec first, last; ///< speeds at its ends
    double told = 0; ///< how much less the variance of their difference is than by positions alone, 0 to 1
};

/// Mean and variance of a plane vector.
class Spread {
  public:
    void add(const cv::Vec2f& value, float weight) {
        const double w = weight;
        weights_ += w;
        sum_ += Vec(value) * w;
        squares_ += w * static_cast<double>(value.dot(value));
    }
    /// Of one coordinate.
    [[nodiscard]] double variance() const {
        const Vec mean = sum_ / weights_;
        return (squares_ / weights_ - mean.dot(mean)) / 2;
    }

  private:
    double weights_ = 0;
    Vec sum_{0, 0};
    double squares_ = 0;
};

/// Speeds at the frames of a run: candidates at each, and how well those at both ends of a gap go together.
class SpeedChain {
  public:
    SpeedChain(const Run& run, const Law& law, double wander, std::span<const cv::Vec2f> points)
        : run_(run)
        , law_(law)
        , wander_(wander)
        , points_(points) {}

    /// Of each gap, forward and backward along the chain.
    [[nodiscard]] std::vector<Expected> expected(const std::stop_token& stop) const;

  private:
    /// Of a coordinate of the spline's speed.
    [[nodiscard]] double variance(std::size_t frame) const {
        const bool end = frame == 0 || frame + 1 == run_.spline.size();
        return wander_ * (end ? splineVarianceAtEnds : splineVariance);
    }
    /// Of how much it changes over a gap.
    [[nodiscard]] double differenceVariance(std::size_t gap) const {
        const double first = variance(gap);
        const double last = variance(gap + 1);
        return first + last + 2 * against * std::max(first, last);
    }
    /// Wider than the spline is uncertain, so that blur can speak for what is unlikely by it.
    [[nodiscard]] double spread(std::size_t frame) const {
        constexpr double wider = 1.3;
        return wider * std::sqrt(variance(frame));
    }
    [[nodiscard]] cv::Vec2f speed(std::size_t frame, std::size_t candidate) const {
        return cv::Vec2f(run_.spline[frame]) + points_[candidate] * static_cast<float>(spread(frame));
    }
    /// Likelihood of each pair of candidates at both ends of a gap, the greatest 1.
    void pairs(std::size_t gap, std::vector<float>& likelihood) const;

    const Run& run_;
    const Law& law_;
    double wander_;
    std::span<const cv::Vec2f> points_;
};

void SpeedChain::pairs(std::size_t gap, std::vector<float>& likelihood) const {
    likelihood.resize(std::size_t{candidates} * candidates);
    constexpr float degrees = 4; // of freedom, Student's t: now and then blur changes by something else
    const auto energy = static_cast<float>(2 / wander_);
    const cv::Vec2f mean(run_.mean[gap]);
    std::array<float, 3> weight{};
    std::array<float, 3> blur{};
    for (std::size_t i = 0; i < 3; ++i) {
        const double scatter = law_.scatter[i];
        weight[i] = run_.blurKnown[gap] ? 1 / (degrees * static_cast<float>(scatter * scatter)) : 0.0F;
        blur[i] = static_cast<float>(run_.blur[gap][static_cast<int>(i)]);
    }
    const auto g = static_cast<float>(law_.growth);
    const auto moments = [g](const cv::Vec2f& v) { // see growth()
        constexpr auto half = static_cast<float>(1 / root);
        return std::array{g * half * (v[0] * v[0] - v[1] * v[1]), g * static_cast<float>(root) * v[0] * v[1],
                          g * half * (v[0] * v[0] + v[1] * v[1])};
    };
    struct End {
        cv::Vec2f off;
        std::array<float, 3> moments;
    };
    std::vector<End> last;
    last.reserve(candidates);
    for (std::size_t j = 0; j < candidates; ++j) {
        const cv::Vec2f v = speed(gap + 1, j);
        last.push_back({v - mean, moments(v)});
    }
    float least = 1e30F;
    for (std::size_t i = 0; i < candidates; ++i) {
        const cv::Vec2f v = speed(gap, i);
        const cv::Vec2f a = v - mean;
        const std::array<float, 3> from = moments(v);
        for (std::size_t j = 0; j < candidates; ++j) {
            const End& to = last[j];
            float sum = energy * (a.dot(a) + a.dot(to.off) + to.off.dot(to.off));
            float misfit = 1;
            for (std::size_t m = 0; m < 3; ++m) {
                const float left = blur[m] - (to.moments[m] - from[m]);
                misfit *= 1 + weight[m] * left * left;
            }
            sum += 0.5F * (degrees + 1) * std::log(misfit);
            // The candidates are denser in the middle; all the plane counts alike.
            sum -= 0.5F * (points_[i].dot(points_[i]) + points_[j].dot(points_[j]));
            likelihood[i * candidates + j] = sum;
            least = std::min(least, sum);
        }
    }
    for (float& value : likelihood)
        value = std::exp(least - value);
}

std::vector<Expected> SpeedChain::expected(const std::stop_token& stop) const {
    const std::size_t gaps = run_.mean.size();
    const auto normalise = [](Weights& weights) {
        const float most = *std::max_element(weights.begin(), weights.end());
        for (float& weight : weights)
            weight /= most;
    };
    // What goes in twice, at the end of a gap and at the beginning of the next, is taken out once.
    const auto own = [this](std::size_t j) { return std::exp(-0.5F * points_[j].dot(points_[j])); };
    std::vector<Weights> forward(gaps);
    std::vector<float> likelihood;
    Weights at(candidates, 1.0F);
    for (std::size_t k = 0; k < gaps; ++k) {
        throwIfStopped(stop);
        forward[k] = at;
        pairs(k, likelihood);
        Weights next(candidates, 0.0F);
        for (std::size_t i = 0; i < candidates; ++i)
            for (std::size_t j = 0; j < candidates; ++j)
                next[j] += at[i] * likelihood[i * candidates + j];
        for (std::size_t j = 0; j < candidates; ++j)
            next[j] *= own(j);
        normalise(next);
        at = std::move(next);
    }
    std::vector<Expected> speeds(gaps);
    Weights behind(candidates, 1.0F);
    for (std::size_t k = gaps; k-- > 0;) {
        throwIfStopped(stop);
        pairs(k, likelihood);
        Weights before(candidates, 0.0F);
        Weights after(candidates, 0.0F);
        Spread difference;
        for (std::size_t i = 0; i < candidates; ++i) {
            const cv::Vec2f first = speed(k, i);
            for (std::size_t j = 0; j < candidates; ++j) {
                const float both = likelihood[i * candidates + j] * behind[j];
                before[i] += both;
                after[j] += both * forward[k][i];
                difference.add(first - speed(k + 1, j), both * forward[k][i]);
            }
        }
        const auto mean = [this](std::size_t frame, const Weights& weights, const Weights* times) {
            Vec sum(0, 0);
            double all = 0;
            for (std::size_t i = 0; i < candidates; ++i) {
                const double weight =
                    static_cast<double>(weights[i]) * (times ? static_cast<double>((*times)[i]) : 1.0);
                sum += Vec(speed(frame, i)) * weight;
                all += weight;
            }
            return Vec(sum / all);
        };
        speeds[k] = {mean(k, before, &forward[k]), mean(k + 1, after, nullptr),
                     std::clamp(1 - difference.variance() / differenceVariance(k), 0.0, 1.0)};
        for (std::size_t i = 0; i < candidates; ++i)
            before[i] *= own(i);
        normalise(before);
        behind = std::move(before);
    }
    return speeds;
}

} // namespace

CameraShake cameraShake(std::span<const CameraStep> steps, const std::stop_token& stop) {
    CameraShake shake;
    const std::vector<Run> runs = runsOf(steps);
    const std::vector<Known> known = innerGaps(runs);
    constexpr std::size_t enough = 8;
    if (known.size() < enough) return shake;
    const Law law = fitted(known);
    constexpr double believed = 3.5; // standard errors
    shake.certainty = law.certainty;
    const double wander = wandering(runs);
    if (law.certainty < believed || wander <= 0) return shake;
    shake.exposure = std::min(1.0, std::sqrt(12 * law.growth));

    const std::vector<cv::Vec2f> points = normalPoints();
    for (const Run& run : runs) {
        const std::vector<Expected> speeds = SpeedChain(run, law, wander, points).expected(stop);
        for (std::size_t k = 0; k < speeds.size(); ++k) {
            if (!run.blurKnown[k]) continue;
            const Vec first = speeds[k].first - run.mean[k];
            const Vec last = speeds[k].last - run.mean[k];
            constexpr double much = 1.0 / 3; // told that well, it is believed
            shake.gaps.push_back({run.gap + static_cast<std::int64_t>(k), static_cast<float>(first[0]),
                                  static_cast<float>(first[1]), static_cast<float>(last[0]),
                                  static_cast<float>(last[1]),
                                  static_cast<float>(std::min(1.0, speeds[k].told / much))});
        }
    }
    return shake;
}

void CameraMeter::measure(const Image* frame) {
    CameraPicturePtr picture;
    double scale = 1;
    if (frame) {
        constexpr int widest = 480;
        constexpr int depth = 16; // rounding to 8 bits would hide small changes of blur
        const Image small = smallLuma(*frame, widest, depth);
        picture = cameraPicture(small);
        scale = static_cast<double>(frame->width()) / small.width();
    }
    changes_.emplace_back();
    if (began_) {
        CameraStep step;
        if (picture && before_) {
            step = cameraStep(*before_, *picture);
            changes_.back() = changesBesideCamera(step, *before_, *picture);
        }
        // Blur is worth its time only where speed changes.
        constexpr double still = 0.25; // pixels of the small picture
        const double change = std::hypot(step.x - late_[0].x, step.y - late_[0].y);
        const double earlier = std::hypot(late_[0].x - late_[1].x, late_[0].y - late_[1].y);
        if (std::max(change, earlier) > still && step.known) measureBlur(step, *before_, *picture);
        steps_.push_back(step.scaled(scale));
        late_ = {step, late_[0]};
    }
    began_ = true;
    before_ = std::move(picture);
}

} // namespace yarngap
