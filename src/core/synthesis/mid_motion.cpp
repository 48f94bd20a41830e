#include "core/synthesis/mid_motion.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

using Four = float __attribute__((vector_size(16)));

/// What one side's pixels leave on the in-between's grid.
struct Landing {
    std::vector<Four> sums;      // motion a → b, both parts, and trust, each times weight; weight
    std::vector<float> coverage; // how much landed, 1 where the motion is even
};

/// The same at one place, as means.
struct Landed {
    float vx = 0, vy = 0;
    float trust = 0;
    float coverage = 0;
};

int below(float x) {
    const int i = static_cast<int>(x);
    return static_cast<float>(i) > x ? i - 1 : i;
}

/// How much a vector of squared length `squared` counts against others that land on the same pixel: motions
/// that differ by two pixels differ by e² (about seven times).
float precedence(InFront inFront, float squared) {
    if (inFront == InFront::judged) return 1;
    constexpr float most = 40; // beyond that all are alike, lest the sums overflow
    const float length = std::min(most, std::sqrt(squared));
    return std::exp(inFront == InFront::faster ? length : -length);
}

/// Carries each pixel `share` of its vector; `sign` turns the vector into a motion a → b.
Landing land(const VectorField& field, const TrustField& trust, float share, float sign, InFront inFront) {
    const int w = field.width;
    const int h = field.height;
    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    Landing out{std::vector<Four>(n), std::vector<float>(n)};
    const auto drop = [&](std::size_t i, float spread, const Four& carried) {
        out.sums[i] += spread * carried;
        out.coverage[i] += spread;
    };
    for (int y = 0; y < h; ++y) {
        const float* v = field.row(y);
        const std::uint8_t* q = trust.row(y);
        for (int x = 0; x < w; ++x) {
            const float tx = static_cast<float>(x) + share * v[2 * x];
            const float ty = static_cast<float>(y) + share * v[2 * x + 1];
            if (!(tx > -1 && ty > -1 && tx < static_cast<float>(w) && ty < static_cast<float>(h))) continue;
            const int ix = below(tx);
            const int iy = below(ty);
            const float fx = tx - static_cast<float>(ix);
            const float fy = ty - static_cast<float>(iy);
            const float trustHere = static_cast<float>(q[x]) * (1.0F / 255.0F);
            const float importance = (0.01F + trustHere * trustHere) *
                                     precedence(inFront, v[2 * x] * v[2 * x] + v[2 * x + 1] * v[2 * x + 1]);
            const Four carried = Four{sign * v[2 * x], sign * v[2 * x + 1], trustHere, 1.0F} * importance;
            if (ix >= 0 && iy >= 0 && ix + 1 < w && iy + 1 < h) {
                const std::size_t i =
                    static_cast<std::size_t>(iy) * static_cast<std::size_t>(w) + static_cast<std::size_t>(ix);
                drop(i, (1 - fx) * (1 - fy), carried);
                drop(i + 1, fx * (1 - fy), carried);
                drop(i + static_cast<std::size_t>(w), (1 - fx) * fy, carried);
                drop(i + static_cast<std::size_t>(w) + 1, fx * fy, carried);
                continue;
            }
            for (int k = 0; k < 4; ++k) {
                const int px = ix + (k & 1);
                const int py = iy + (k >> 1);
                if (px >= 0 && py >= 0 && px < w && py < h)
                    drop(static_cast<std::size_t>(py) * static_cast<std::size_t>(w) +
                             static_cast<std::size_t>(px),
                         ((k & 1) ? fx : 1 - fx) * ((k >> 1) ? fy : 1 - fy), carried);
            }
        }
    }
    return out;
}

Landed meanAt(const Landing& landing, std::size_t i) {
    const Four& sums = landing.sums[i];
    if (sums[3] <= 0) return {};
    const float inverse = 1.0F / sums[3];
    return {sums[0] * inverse, sums[1] * inverse, sums[2] * inverse, std::min(1.0F, landing.coverage[i])};
}

/// Both pictures of a gap, to see how well a motion fits them.
struct Fit {
    const std::vector<float>& lumaA;
    const std::vector<float>& lumaB;
    int width;
    int height;
    float phase;

    /// Sum of differences over 3 x 3 pixels around (x, y) of the in-between, to the nearest pixel.
    [[nodiscard]] float mismatch(int x, int y, float vx, float vy) const {
        const auto nearest = [](float place, int last) {
            return std::clamp(below(place + 0.5F), 1, std::max(1, last - 1));
        };
        if (width < 3 || height < 3) return 0;
        const auto px = static_cast<float>(x);
        const auto py = static_cast<float>(y);
        const auto index = [&](float at, float down) {
            return static_cast<std::ptrdiff_t>(nearest(down, height - 1)) * width + nearest(at, width - 1);
        };
        const float* a = lumaA.data() + index(px - phase * vx, py - phase * vy);
        const float* b = lumaB.data() + index(px + (1 - phase) * vx, py + (1 - phase) * vy);
        float sum = 0;
        for (std::ptrdiff_t line = -width; line <= width; line += width)
            for (std::ptrdiff_t i = line - 1; i <= line + 1; ++i)
                sum += std::abs(a[i] - b[i]);
        return sum;
    }
};

/// Fills pixels that nobody landed on from the nearest filled pixel to the left and right, mixed by distance.
void fillHoles(MidMotion& mid, const std::vector<std::uint8_t>& known) {
    const int w = mid.width;
    tbb::parallel_for(0, mid.height, [&](int y) {
        float* v = mid.motion.row(y);
        const std::uint8_t* k = known.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(w);
        for (int x = 0; x < w;) {
            if (k[x]) {
                ++x;
                continue;
            }
            int end = x;
            while (end < w && !k[end])
                ++end;
            for (int i = x; i < end; ++i) {
                const int left = x - 1;
                const int right = end < w ? end : -1;
                for (int c = 0; c < 2; ++c) {
                    float value = 0;
                    if (left >= 0 && right >= 0) {
                        const float s = static_cast<float>(i - left) / static_cast<float>(right - left);
                        value = (1 - s) * v[2 * left + c] + s * v[2 * right + c];
                    } else if (left >= 0) {
                        value = v[2 * left + c];
                    } else if (right >= 0) {
                        value = v[2 * right + c];
                    }
                    v[2 * i + c] = value;
                }
            }
            x = end;
        }
    });
}

/// 3 x 3 mean, so that the change from one side to the other has no hard seam.
void soften(std::vector<float>& plane, int w, int h) {
    std::vector<float> rows(plane.size());
    tbb::parallel_for(0, h, [&](int y) {
        const float* in = plane.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(w);
        float* out = rows.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(w);
        for (int x = 0; x < w; ++x)
            out[x] = in[std::max(0, x - 1)] + in[x] + in[std::min(w - 1, x + 1)];
    });
    tbb::parallel_for(0, h, [&](int y) {
        const auto rowAt = [&](int i) {
            return rows.data() +
                   static_cast<std::size_t>(std::clamp(i, 0, h - 1)) * static_cast<std::size_t>(w);
        };
        const float* above = rowAt(y - 1);
        const float* here = rowAt(y);
        const float* below = rowAt(y + 1);
        float* out = plane.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(w);
        for (int x = 0; x < w; ++x)
            out[x] = (above[x] + here[x] + below[x]) * (1.0F / 9.0F);
    });
}

constexpr float alike = 0.5F;     // pixels apart, up to which two motions are one
constexpr float different = 2.0F; // beyond which a mean of both would be neither

float apart(const Landed& a, const Landed& b) {
    return std::abs(a.vx - b.vx) + std::abs(a.vy - b.vy);
}

/// Where each side sees another motion: how badly the pictures fit along the one of a and along that of b.
struct Contest {
    std::vector<float> misfitA, misfitB;

    /// Averages over the neighbours, so that one motion wins over a region and not pixel by pixel.
    void settle(int w, int h) {
        constexpr int window = 7;
        for (std::vector<float>* plane : {&misfitA, &misfitB}) {
            cv::Mat view(h, w, CV_32F, plane->data());
            cv::blur(view, view, {window, window}, {-1, -1}, cv::BORDER_REFLECT);
        }
    }
};

/// How much of two motions seen at one pixel of the in-between the one from b is taken, 0 to 1.
float favourOfB(const Landed& a, const Landed& b, InFront inFront, float phase, float misfitA,
                float misfitB) {
    const float away = apart(a, b);
    if (away <= alike) return phase;
    if (inFront != InFront::judged && away > different) {
        const bool fasterB = b.vx * b.vx + b.vy * b.vy > a.vx * a.vx + a.vy * a.vy;
        return fasterB == (inFront == InFront::faster) ? 1.0F : 0.0F;
    }
    constexpr float fine = 0.02F; // a difference that means nothing
    const float ma = misfitA + fine;
    const float mb = misfitB + fine;
    return away > different ? (mb < ma ? 1.0F : 0.0F) : ma / (ma + mb);
}

/// Trust of a pixel; see projectMotion.
float trustAt(const Landed& a, const Landed& b, bool hasA, bool hasB, float mismatch) {
    const float landed = hasA && hasB ? 0.5F * (a.trust + b.trust) : hasA ? a.trust : b.trust;
    if (hasA && hasB) {
        const float d = mismatch * (255.0F / 9.0F / 24.0F);
        return (0.4F + 0.6F * landed) * std::exp(-d * d);
    }
    if (hasA || hasB) return 0.6F + 0.4F * landed;
    return 0;
}

} // namespace

MidMotion projectMotion(const Vectors& vectors, const std::vector<float>& lumaA,
                        const std::vector<float>& lumaB, double phase, const SynthesisOptions& options) {
    const int w = vectors.forward.width;
    const int h = vectors.forward.height;
    const auto t = static_cast<float>(phase);
    Landing fromA;
    Landing fromB;
    tbb::parallel_invoke(
        [&] { fromA = land(vectors.forward, vectors.forwardTrust, t, 1.0F, options.inFront); },
        [&] { fromB = land(vectors.backward, vectors.backwardTrust, 1.0F - t, -1.0F, options.inFront); });

    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    const bool wantsTrust = options.trustLimit > 0;
    MidMotion mid{w,
                  h,
                  {w, h, std::vector<float>(n * 2)},
                  std::vector<float>(n),
                  std::vector<float>(wantsTrust ? n : 0)};
    std::vector<std::uint8_t> known(n, 1);
    const Fit fit{lumaA, lumaB, w, h, t};
    const float partB = options.evenTexture ? 0.5F : t; // of b, where both sides see a pixel
    const auto placeOf = [w](int x, int y) {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x);
    };
    constexpr float landed = 0.05F;
    Contest contest{std::vector<float>(n), std::vector<float>(n)};
    tbb::parallel_for(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const std::size_t i = placeOf(x, y);
            const Landed a = meanAt(fromA, i);
            const Landed b = meanAt(fromB, i);
            if (a.coverage <= landed || b.coverage <= landed || apart(a, b) <= alike) continue;
            contest.misfitA[i] = fit.mismatch(x, y, a.vx, a.vy);
            contest.misfitB[i] = fit.mismatch(x, y, b.vx, b.vy);
        }
    });
    contest.settle(w, h);
    tbb::parallel_for(0, h, [&](int y) {
        float* motion = mid.motion.row(y);
        for (int x = 0; x < w; ++x) {
            const std::size_t i = placeOf(x, y);
            const Landed a = meanAt(fromA, i);
            const Landed b = meanAt(fromB, i);
            const bool hasA = a.coverage > landed;
            const bool hasB = b.coverage > landed;
            known[i] = hasA || hasB ? 1 : 0;
            const float favourB =
                hasA && hasB ? favourOfB(a, b, options.inFront, t, contest.misfitA[i], contest.misfitB[i])
                             : (hasB ? 1.0F : 0.0F);
            const float vx = (1 - favourB) * a.vx + favourB * b.vx;
            const float vy = (1 - favourB) * a.vy + favourB * b.vy;
            motion[2 * x] = vx;
            motion[2 * x + 1] = vy;
            const float seenA = (1 - partB) * a.coverage * (0.05F + a.trust) + 1e-6F * (1 - partB);
            const float seenB = partB * b.coverage * (0.05F + b.trust) + 1e-6F * partB;
            mid.shareB[i] = seenB / (seenA + seenB);
            if (wantsTrust)
                mid.trust[i] = trustAt(a, b, hasA, hasB, hasA && hasB ? fit.mismatch(x, y, vx, vy) : 0);
        }
    });
    fillHoles(mid, known);
    soften(mid.shareB, w, h);
    if (options.sides != Sides::both)
        std::fill(mid.shareB.begin(), mid.shareB.end(), options.sides == Sides::after ? 1.0F : 0.0F);
    return mid;
}

} // namespace yarngap
