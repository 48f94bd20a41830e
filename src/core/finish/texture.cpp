#include "core/finish/texture.h"

#include "core/choice_names.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap {

namespace {

constexpr ChoiceNames<GrainKind, 3> grains{
    "grain", {{{GrainKind::none, "none"}, {GrainKind::added, "added"}, {GrainKind::matched, "matched"}}}};

cv::Mat matOf(FloatPlane& plane) {
    return {plane.height, plane.width, CV_32F, plane.values.get()};
}
cv::Mat matOf(const FloatPlane& plane) {
    return {plane.height, plane.width, CV_32F, const_cast<float*>(plane.values.get())};
}

/// How much smaller a plane of chroma is, across and down.
std::pair<double, double> shrinkOf(const PixelLayout& layout, std::size_t plane) {
    if (!layout.isChroma(static_cast<int>(plane))) return {1, 1};
    return {1.0 / (1 << layout.chromaShiftX), 1.0 / (1 << layout.chromaShiftY)};
}

/// Wide Gaussians are made of a smaller picture, which loses nothing that is left of it.
cv::Mat blurred(const cv::Mat& in, double across, double down) {
    constexpr double wide = 8;
    cv::Mat small = in;
    int shrink = 1;
    while (std::min(across, down) / shrink > wide && std::min(small.cols, small.rows) > 32) {
        cv::Mat half;
        cv::resize(small, half, {(small.cols + 1) / 2, (small.rows + 1) / 2}, 0, 0, cv::INTER_AREA);
        small = half;
        shrink *= 2;
    }
    cv::Mat out;
    cv::GaussianBlur(small, out, {}, std::max(0.01, across / shrink), std::max(0.01, down / shrink),
                     cv::BORDER_REFLECT);
    if (shrink > 1) cv::resize(out, out, in.size(), 0, 0, cv::INTER_CUBIC);
    return out;
}

void mix(FloatPlane& plane, const cv::Mat& soft, float softShare) {
    cv::Mat own = matOf(plane);
    cv::addWeighted(own, 1 - softShare, soft, softShare, 0, own);
}

// ---- Grain

constexpr int lightsInt = static_cast<int>(GrainLook::lights);

/// Second differences in both directions, which no slope gets through, over that of noise of deviation 1.
cv::Mat secondDifference(const cv::Mat& in) {
    static const cv::Mat kernel = (cv::Mat_<float>(3, 3) << 1, -2, 1, -2, 4, -2, 1, -2, 1) / 6.0F;
    cv::Mat out;
    cv::filter2D(in, out, CV_32F, kernel, {-1, -1}, 0, cv::BORDER_REFLECT);
    return out;
}

/// Deviation of noise from magnitudes, the larger part of which may be texture: of the median of the lesser
/// 60 %, which of Gaussian noise alone is 0.524 deviations.
double deviationOf(std::vector<float>& magnitudes) {
    constexpr std::size_t few = 200;
    if (magnitudes.size() < few) return -1;
    const auto at = magnitudes.begin() + static_cast<std::ptrdiff_t>(magnitudes.size() * 3 / 10);
    std::nth_element(magnitudes.begin(), at, magnitudes.end());
    constexpr double quantile = 0.3853; // of |N(0, 1)|, below which 30 % lie
    return *at / quantile;
}

/// −1 where there are too few pixels.
struct Deviations {
    std::array<double, GrainLook::lights> byLight{};
    double all = -1;
};
Deviations deviations(const cv::Mat& plane, const cv::Mat& light, float black, float width) {
    const cv::Mat left = secondDifference(plane);
    // By the brightness around: grain itself would choose its own bin.
    cv::Mat around;
    cv::blur(light, around, {5, 5}, {-1, -1}, cv::BORDER_REFLECT);
    std::array<std::vector<float>, GrainLook::lights> magnitudes;
    std::vector<float> all;
    const int step = std::max(1, plane.rows / 270); // enough to tell
    for (int y = 1; y < plane.rows - 1; y += step) {
        const float* line = left.ptr<float>(y);
        const float* bright = around.ptr<float>(y);
        for (int x = 1; x < plane.cols - 1; ++x) {
            const float share = (bright[x] - black) / width;
            if (!(share > 0.01F && share < 0.99F)) continue; // what is cut off has no grain
            const int bin = std::min(lightsInt - 1, static_cast<int>(share * static_cast<float>(lightsInt)));
            magnitudes[static_cast<std::size_t>(bin)].push_back(std::abs(line[x]));
            all.push_back(std::abs(line[x]));
        }
    }
    Deviations out;
    for (std::size_t i = 0; i < out.byLight.size(); ++i)
        out.byLight[i] = deviationOf(magnitudes[i]);
    out.all = deviationOf(all);
    return out;
}

/// Those that are not known take what is beside them.
void fillUnknown(std::array<double, GrainLook::lights>& values) {
    for (std::size_t i = 1; i < values.size(); ++i)
        if (values[i] < 0) values[i] = values[i - 1];
    for (std::size_t i = values.size() - 1; i > 0; --i)
        if (values[i - 1] < 0) values[i - 1] = values[i];
    for (double& v : values)
        v = std::max(0.0, v);
}

/// What noise of deviation 1, softened by a Gaussian of `size`, measures as.
struct SoftNoise {
    double gain;  ///< by secondDifference()
    double ratio; ///< the same after averaging two by two, times two: 1 of white noise
};

SoftNoise softNoise(double size) {
    // Both filters act along rows and columns alike, so of each the square of one is enough.
    const auto response = [](const std::vector<double>& kernel, double deviation) {
        double sum =
            0; // Σ Σ k_i k_j r(i − j), r the correlation of the softened noise at unit variance of it
        for (std::size_t i = 0; i < kernel.size(); ++i)
            for (std::size_t j = 0; j < kernel.size(); ++j) {
                const double d = static_cast<double>(i) - static_cast<double>(j);
                sum += kernel[i] * kernel[j] *
                       (deviation > 0.05 ? std::exp(-d * d / (4 * deviation * deviation)) : (d == 0 ? 1 : 0));
            }
        return sum;
    };
    const double root6 = std::sqrt(6.0);
    const std::vector<double> second{1 / root6, -2 / root6, 1 / root6};
    // On the averaged picture: 1 −2 1 of pairs.
    const std::vector<double> paired{.5 / root6, .5 / root6, -1 / root6, -1 / root6, .5 / root6, .5 / root6};
    const double fine = response(second, size);
    const double coarse = response(paired, size);
    return {fine, 2 * coarse / std::max(1e-9, fine)};
}

double sizeOf(double ratio) {
    constexpr double most = 4;
    if (ratio <= softNoise(0).ratio) return 0;
    double low = 0;
    double high = most;
    for (int i = 0; i < 40; ++i) {
        const double middle = (low + high) / 2;
        (softNoise(middle).ratio < ratio ? low : high) = middle;
    }
    return (low + high) / 2;
}

/// Numbers that look like chance: a mixing of the place (after Steele and Vigna, SplitMix64, 2014).
std::uint64_t chance(std::uint64_t x) {
    x += 0x9E3779B97F4A7C15ULL;
    x = (x ^ (x >> 30U)) * 0xBF58476D1CE4E5B9ULL;
    x = (x ^ (x >> 27U)) * 0x94D049BB133111EBULL;
    return x ^ (x >> 31U);
}

/// Near to normal, of mean 0 and deviation 1: a sum of eight parts of one number.
float nearNormal(std::uint64_t bits) {
    int sum = 0;
    for (int i = 0; i < 8; ++i, bits >>= 8U)
        sum += static_cast<int>(bits & 0xFFU);
    constexpr float mean = 8 * 127.5F;
    constexpr float deviation = 209.01F; // √(8 (256² − 1) / 12)
    return (static_cast<float>(sum) - mean) / deviation;
}

cv::Mat noisePlane(cv::Size size, std::uint64_t seed, double softness) {
    cv::Mat out(size, CV_32F);
    tbb::parallel_for(0, size.height, [&](int y) {
        float* row = out.ptr<float>(y);
        const std::uint64_t line = chance(seed ^ (static_cast<std::uint64_t>(y) << 32U));
        for (int x = 0; x < size.width; ++x)
            row[x] = nearNormal(chance(line + static_cast<std::uint64_t>(x)));
    });
    if (softness <= 0.05) return out;
    cv::GaussianBlur(out, out, {}, softness, softness, cv::BORDER_REFLECT);
    // Softening makes noise weaker by the sum of the squares of its weights.
    const cv::Mat weights =
        cv::getGaussianKernel(2 * static_cast<int>(std::ceil(4 * softness)) + 1, softness, CV_64F);
    return out / weights.dot(weights);
}

/// Deviation at a brightness, as a share of white.
float deviationAt(const std::array<double, GrainLook::lights>& luma, float share) {
    const float place = share * static_cast<float>(lightsInt) - 0.5F;
    const float at =
        place > 0 ? std::min(place, static_cast<float>(lightsInt - 1)) : 0; // what is no number too
    const auto i = std::min<std::size_t>(static_cast<std::size_t>(at), GrainLook::lights - 2);
    const float f = at - static_cast<float>(i);
    return static_cast<float>(luma[i]) * (1 - f) + static_cast<float>(luma[i + 1]) * f;
}

} // namespace

std::string_view name(GrainKind value) {
    return grains.nameOf(value);
}
GrainKind parseGrainKind(std::string_view text) {
    return grains.parse(text);
}

void softenAndSharpen(FloatPicture& picture, const Texture& texture, double scale) {
    for (std::size_t p = 0; p < picture.planes.size(); ++p) {
        FloatPlane& plane = picture.planes[p];
        const auto [across, down] = shrinkOf(picture.layout, p);
        const auto soft = [&, across = across, down = down](double radius) {
            return blurred(matOf(plane), radius * scale * across, radius * scale * down);
        };
        if (texture.softens())
            mix(plane, soft(texture.softenRadius), static_cast<float>(texture.soften) / 100);
        // Sharper colour is coloured edges.
        if (texture.sharpens() && !picture.layout.isChroma(static_cast<int>(p)))
            mix(plane, soft(texture.sharpenRadius), -static_cast<float>(texture.sharpen) / 100);
    }
}

GrainLook grainOf(const FloatPicture& picture, const ColourTags& colour) {
    GrainLook out;
    const NominalRange range = nominalRange(picture.layout, colour);
    const cv::Mat luma = matOf(picture.planes.front());
    if (std::min(luma.cols, luma.rows) < 16) return out;
    const Deviations measured = deviations(luma, luma, range.black, range.width());
    auto fine = measured.byLight;
    cv::Mat half;
    cv::resize(luma, half, {luma.cols / 2, luma.rows / 2}, 0, 0, cv::INTER_AREA);
    const double coarse = deviations(half, half, range.black, range.width()).all;
    if (measured.all > 0 && coarse > 0) out.size = sizeOf(2 * coarse / measured.all);
    const double gain = softNoise(out.size).gain;
    fillUnknown(fine);
    for (std::size_t i = 0; i < fine.size(); ++i)
        out.luma[i] = fine[i] / gain / static_cast<double>(range.width());
    if (picture.layout.model == ColourModel::yuv) {
        double sum = 0;
        for (std::size_t p = 1; p < 3; ++p) {
            const cv::Mat plane = matOf(picture.planes[p]);
            if (std::min(plane.cols, plane.rows) < 16) continue;
            const double d = deviations(plane, plane, 0, 2 * chromaMiddle(picture.layout)).all;
            sum += std::max(0.0, d) / 2;
        }
        out.chroma = sum / static_cast<double>(range.width());
    }
    return out;
}

GrainLook meanOf(const std::vector<GrainLook>& looks) {
    GrainLook out;
    if (looks.empty()) return out;
    const double share = 1.0 / static_cast<double>(looks.size());
    for (const GrainLook& look : looks) {
        for (std::size_t i = 0; i < out.luma.size(); ++i)
            out.luma[i] += share * look.luma[i];
        out.chroma += share * look.chroma;
        out.size += share * look.size;
    }
    return out;
}

void addGrain(FloatPicture& picture, const GrainLook& look, const ColourTags& colour, std::uint64_t seed) {
    const NominalRange range = nominalRange(picture.layout, colour);
    const std::size_t own = picture.layout.model == ColourModel::rgb ? 3 : 1;
    for (std::size_t p = 0; p < own; ++p) {
        FloatPlane& plane = picture.planes[p];
        const cv::Mat noise = noisePlane({plane.width, plane.height}, chance(seed * 4 + p), look.size);
        tbb::parallel_for(0, plane.height, [&](int y) {
            float* row = plane.row(y);
            const float* grain = noise.ptr<float>(y);
            for (int x = 0; x < plane.width; ++x)
                row[x] +=
                    deviationAt(look.luma, (row[x] - range.black) / range.width()) * range.width() * grain[x];
        });
    }
    if (picture.layout.model != ColourModel::yuv || look.chroma <= 0) return;
    for (std::size_t p = 1; p < 3; ++p) {
        FloatPlane& plane = picture.planes[p];
        cv::Mat values = matOf(plane);
        values += noisePlane(values.size(), chance(seed * 4 + p), 0) *
                  (look.chroma * static_cast<double>(range.width()));
    }
}

GrainLook missingGrain(const GrainLook& want, const GrainLook& have) {
    const auto missing = [](double w, double h) { return std::sqrt(std::max(0.0, w * w - h * h)); };
    GrainLook out;
    for (std::size_t i = 0; i < out.luma.size(); ++i)
        out.luma[i] = missing(want.luma[i], have.luma[i]);
    out.chroma = missing(want.chroma, have.chroma);
    out.size = want.size;
    return out;
}

} // namespace yarngap
