#include "core/synthesis/warp.h"

#include "core/image/light_mean.h"
#include "core/image/sample_types.h"
#include "core/image/scene_light.h"
#include "core/synthesis/doubt.h"
#include "core/synthesis/mid_motion.h"
#include "core/synthesis/spline_plane.h"
#include "core/synthesis/stand_in.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// Luma (or green, which carries most of it) of a picture as values 0 to 1.
std::vector<float> lumaPlane(const Image& image) {
    if (image.layout().isFloat()) return lumaPlane(encodeLight(image, LightCurve::analysis));
    const auto w = static_cast<std::size_t>(image.width());
    std::vector<float> out(w * static_cast<std::size_t>(image.height()));
    const float scale = 1.0F / static_cast<float>(image.layout().maxValue());
    tbb::parallel_for(0, image.height(), [&](int y) {
        float* to = out.data() + w * static_cast<std::size_t>(y);
        const auto convert = [&](auto row) {
            for (std::size_t x = 0; x < w; ++x)
                to[x] = static_cast<float>(row[x]) * scale;
        };
        if (image.layout().bytesPerSample() == 1)
            convert(image.row<std::uint8_t>(0, y));
        else
            convert(image.row<std::uint16_t>(0, y));
    });
    return out;
}

/// Motion and share of each sample of a plane with fewer of them: the mean over the pixels it stands for.
MidMotion coarser(const MidMotion& mid, int shiftX, int shiftY) {
    const int w = (mid.width + (1 << shiftX) - 1) >> shiftX;
    const int h = (mid.height + (1 << shiftY) - 1) >> shiftY;
    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    MidMotion out{w, h, {w, h, std::vector<float>(n * 2)}, std::vector<float>(n), {}};
    tbb::parallel_for(0, h, [&](int py) {
        const int y0 = py << shiftY;
        const int y1 = std::min(mid.height, y0 + (1 << shiftY));
        float* motion = out.motion.row(py);
        float* share = out.shareB.data() + static_cast<std::size_t>(py) * static_cast<std::size_t>(w);
        for (int px = 0; px < w; ++px) {
            const int x0 = px << shiftX;
            const int x1 = std::min(mid.width, x0 + (1 << shiftX));
            float vx = 0;
            float vy = 0;
            float sum = 0;
            for (int y = y0; y < y1; ++y) {
                const float* v = mid.motion.row(y);
                const float* s =
                    mid.shareB.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(mid.width);
                for (int x = x0; x < x1; ++x) {
                    vx += v[2 * x];
                    vy += v[2 * x + 1];
                    sum += s[x];
                }
            }
            const float inverse = 1.0F / static_cast<float>((x1 - x0) * (y1 - y0));
            motion[2 * px] = vx * inverse / static_cast<float>(1 << shiftX);
            motion[2 * px + 1] = vy * inverse / static_cast<float>(1 << shiftY);
            share[px] = sum * inverse;
        }
    });
    return out;
}

/// The mean of a plane of weights over the pixels each sample of a plane with fewer of them stands for.
std::vector<float> coarser(const std::vector<float>& weights, int width, int height, int shiftX, int shiftY) {
    if (weights.empty()) return {};
    const cv::Mat whole(height, width, CV_32F, const_cast<float*>(weights.data())); // only read
    const cv::Size size((width + (1 << shiftX) - 1) >> shiftX, (height + (1 << shiftY) - 1) >> shiftY);
    std::vector<float> out(static_cast<std::size_t>(size.area()));
    cv::Mat small(size, CV_32F, out.data());
    cv::resize(whole, small, size, 0, 0, cv::INTER_AREA);
    return out;
}

/// Takes a pixel from the side that has it where the other's place lies outside the picture.
void leaveOutside(MidMotion& mid, float t) {
    const auto right = static_cast<float>(mid.width - 1);
    const auto bottom = static_cast<float>(mid.height - 1);
    // 1 inside, falling to 0 within a pixel outside the edge.
    const auto inside = [&](float x, float y) {
        return std::max(0.0F, 1.0F - std::max({-x, x - right, -y, y - bottom, 0.0F}));
    };
    tbb::parallel_for(0, mid.height, [&](int y) {
        const float* v = mid.motion.row(y);
        float* shares = mid.shareB.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(mid.width);
        const auto py = static_cast<float>(y);
        for (int x = 0; x < mid.width; ++x) {
            const auto px = static_cast<float>(x);
            const float wa = (1 - shares[x]) * inside(px - t * v[2 * x], py - t * v[2 * x + 1]);
            const float wb = shares[x] * inside(px + (1 - t) * v[2 * x], py + (1 - t) * v[2 * x + 1]);
            if (wa + wb >= 1e-4F) shares[x] = wb / (wa + wb);
        }
    });
}

/// What shows instead of the moved pictures, and how much of it; `weights` has a place for each sample, or
/// none.
struct Replacement {
    std::vector<float> weights;
    float shareB = 0; ///< of the two source pictures as they are
};

/// A moved plane as floats. `difference`, when it is given, becomes side a − side b, 0 where one is not seen.
template <typename Sample>
std::vector<float> movedPlane(const Image& a, const Image& b, const MidMotion& mid, float t, int p,
                              std::vector<float>* difference) {
    const SplinePlane readA(a, p);
    const SplinePlane readB(b, p);
    const int w = a.plane(p).width;
    const int h = a.plane(p).height;
    std::vector<float> out(static_cast<std::size_t>(w) * static_cast<std::size_t>(h));
    if (difference) difference->assign(out.size(), 0);
    tbb::parallel_for(0, h, [&](int y) {
        const std::size_t line = static_cast<std::size_t>(y) * static_cast<std::size_t>(w);
        const float* v = mid.motion.row(y);
        const float* shares = mid.shareB.data() + line;
        const auto py = static_cast<float>(y);
        for (int x = 0; x < w; ++x) {
            const auto px = static_cast<float>(x);
            const float vx = v[2 * x];
            const float vy = v[2 * x + 1];
            const float share = shares[x];
            const bool needsA = share < 0.999F;
            const bool needsB = share > 0.001F;
            const float fromA = needsA ? readA(px - t * vx, py - t * vy) : 0;
            const float fromB = needsB ? readB(px + (1 - t) * vx, py + (1 - t) * vy) : 0;
            const std::size_t i = line + static_cast<std::size_t>(x);
            out[i] = (needsA ? (1 - share) * fromA : 0) + (needsB ? share * fromB : 0);
            if (difference && needsA && needsB) (*difference)[i] = fromA - fromB;
        }
    });
    return out;
}

/// Gives back the fine part of the nearer side that mixing took away; see warpBetween.
void keepGrain(std::vector<float>& moved, std::vector<float> difference, const std::vector<float>& shares,
               int w, int h, bool nearerIsB) {
    cv::Mat fine(h, w, CV_32F, difference.data());
    cv::Mat mean;
    cv::blur(fine, mean, {7, 7}, {-1, -1}, cv::BORDER_REFLECT);
    fine -= mean;
    // The median of its size, 0.6745 of the standard deviation where it is Gaussian, sees past what does not
    // fit.
    std::vector<float> sizes;
    sizes.reserve(difference.size() / 4 + 1);
    for (std::size_t i = 0; i < difference.size(); i += 4)
        if (difference[i] != 0) sizes.push_back(std::abs(difference[i]));
    if (sizes.empty()) return;
    const auto middle = sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2);
    std::nth_element(sizes.begin(), middle, sizes.end());
    const float sigma = *middle / 0.6745F + 1e-6F;
    tbb::parallel_for(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const std::size_t i =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x);
            const float d = difference[i];
            const float back = nearerIsB ? shares[i] - 1 : shares[i]; // towards the nearer side alone
            // Whole up to 2.5 standard deviations, nothing above 4: that is no grain.
            moved[i] += back * d * std::clamp((4 - std::abs(d) / sigma) / 1.5F, 0.0F, 1.0F);
        }
    });
}

/// `mid` and `instead` have a place for each sample of plane `p`.
template <typename Sample>
void warpPlane(const Image& a, const Image& b, const MidMotion& mid, const Replacement& instead, float t,
               int p, bool withGrain, Image& out) {
    std::vector<float> difference;
    std::vector<float> moved = movedPlane<Sample>(a, b, mid, t, p, withGrain ? &difference : nullptr);
    const int w = out.plane(p).width;
    if (withGrain) keepGrain(moved, std::move(difference), mid.shareB, w, out.plane(p).height, t > 0.5F);
    const auto limit = static_cast<float>(out.layout().maxValue());
    tbb::parallel_for(0, out.plane(p).height, [&](int y) {
        const auto row = out.row<Sample>(p, y);
        const auto rowA = a.row<Sample>(p, y);
        const auto rowB = b.row<Sample>(p, y);
        const std::size_t line = static_cast<std::size_t>(y) * static_cast<std::size_t>(w);
        for (std::size_t x = 0; x < row.size(); ++x) {
            float value = moved[line + x];
            if (!instead.weights.empty()) {
                const float k = instead.weights[line + x];
                const float other = (1 - instead.shareB) * static_cast<float>(rowA[x]) +
                                    instead.shareB * static_cast<float>(rowB[x]);
                value += k * (other - value);
            }
            row[x] = sampleOf<Sample>(value, limit);
        }
    });
}

/// A gap at a moment, with its motion and what stands in for it at the resolution of luma and of chroma.
class Warp {
  public:
    Warp(const Image& a, const Image& b, MidMotion mid, Replacement instead, float t)
        : a_(a)
        , b_(b)
        , mid_(std::move(mid))
        , instead_(std::move(instead))
        , t_(t) {}

    [[nodiscard]] Image picture(bool withGrain) const { return pictureOf(mid_, instead_, withGrain); }

    /// `picture` with its two sides, and the stand-in, mixed as light; `mixed` is the same without kept
    /// grain.
    [[nodiscard]] Image asLight(Image picture, const Image& mixed, const ColourTags& tags) const {
        LightMean light(a_, tags);
        std::vector<float> shares(mid_.shareB.size());
        const auto add = [&](const Image& side, auto share) {
            for (std::size_t i = 0; i < shares.size(); ++i)
                shares[i] = share(mid_.shareB[i], instead_.weights.empty() ? 0.0F : instead_.weights[i]);
            light.add(side, shares);
        };
        MidMotion oneSide = mid_;
        std::fill(oneSide.shareB.begin(), oneSide.shareB.end(), 0.0F);
        add(pictureOf(oneSide, {}, false), [](float share, float k) { return (1 - k) * (1 - share); });
        std::fill(oneSide.shareB.begin(), oneSide.shareB.end(), 1.0F);
        add(pictureOf(oneSide, {}, false), [](float share, float k) { return (1 - k) * share; });
        if (!instead_.weights.empty()) {
            add(a_, [this](float, float k) { return k * (1 - instead_.shareB); });
            add(b_, [this](float, float k) { return k * instead_.shareB; });
        }
        return light.addedTo(std::move(picture), mixed);
    }

  private:
    [[nodiscard]] Image pictureOf(const MidMotion& mid, const Replacement& instead, bool withGrain) const {
        Image out(a_.width(), a_.height(), a_.layout());
        const PixelLayout& layout = a_.layout();
        const bool subsampled = layout.chromaShiftX > 0 || layout.chromaShiftY > 0;
        MidMotion chroma;
        Replacement chromaInstead;
        if (subsampled) {
            chroma = coarser(mid, layout.chromaShiftX, layout.chromaShiftY);
            chromaInstead = {
                coarser(instead.weights, mid.width, mid.height, layout.chromaShiftX, layout.chromaShiftY),
                instead.shareB};
        }
        for (int p = 0; p < out.planeCount(); ++p) {
            const bool small = subsampled && layout.isChroma(p);
            withSampleType(layout, [&](auto sample) {
                warpPlane<decltype(sample)>(a_, b_, small ? chroma : mid, small ? chromaInstead : instead, t_,
                                            p, withGrain, out);
            });
        }
        return out;
    }

    const Image& a_;
    const Image& b_;
    MidMotion mid_;
    Replacement instead_;
    float t_;
};

} // namespace

WarpedFrame warpBetween(const Image& a, const Image& b, const Vectors& vectors, double phase,
                        const SynthesisOptions& options, const ColourTags& tags) {
    const std::vector<float> lumaA = lumaPlane(a);
    const std::vector<float> lumaB = lumaPlane(b);
    const auto t = static_cast<float>(phase);
    MidMotion mid = projectMotion(vectors, lumaA, lumaB, phase, options);
    const double doubt = doubtOf(mid, lumaA, lumaB, phase);
    Replacement instead;
    const float nearer = phase < 0.5 ? 0.0F : 1.0F;
    if (options.trustLimit > 0) {
        std::vector<float> weights = standInWeights(mid, options.trustLimit);
        if (options.standIn == StandIn::side)
            for (std::size_t i = 0; i < weights.size(); ++i)
                mid.shareB[i] += weights[i] * (nearer - mid.shareB[i]);
        else
            instead = {std::move(weights), options.standIn == StandIn::blend ? t : nearer};
    }
    if (options.sides == Sides::both) leaveOutside(mid, t);
    const Warp warp(a, b, std::move(mid), std::move(instead), t);
    Image picture = warp.picture(options.keepGrain);
    if (options.linearLight) {
        const Image mixed = options.keepGrain ? warp.picture(false) : picture;
        picture = warp.asLight(std::move(picture), mixed, tags);
    }
    return {std::move(picture), doubt};
}

} // namespace yarngap
