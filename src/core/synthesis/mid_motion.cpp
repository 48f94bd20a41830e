#include "core/synthesis/mid_motion.h"

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

/// What one side's pixels leave on the in-between's grid.
struct Landing {
    std::vector<float> vx, vy;   // mean motion a → b, trust-weighted
    std::vector<float> coverage; // how much landed, 1 where the motion is even
    std::vector<float> trust;    // mean trust of what landed
};

/// Carries each pixel `share` of its vector; `sign` turns the vector into a motion a → b.
Landing land(const VectorField& field, const TrustField& trust, float share, float sign) {
    const int w = field.width;
    const int h = field.height;
    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    Landing out{std::vector<float>(n), std::vector<float>(n), std::vector<float>(n), std::vector<float>(n)};
    std::vector<float> weight(n);
    for (int y = 0; y < h; ++y) {
        const float* v = field.row(y);
        const std::uint8_t* q = trust.row(y);
        for (int x = 0; x < w; ++x) {
            const float tx = static_cast<float>(x) + share * v[2 * x];
            const float ty = static_cast<float>(y) + share * v[2 * x + 1];
            const int ix = static_cast<int>(std::floor(tx));
            const int iy = static_cast<int>(std::floor(ty));
            const float fx = tx - static_cast<float>(ix);
            const float fy = ty - static_cast<float>(iy);
            const float trustHere = static_cast<float>(q[x]) * (1.0F / 255.0F);
            const float importance = 0.01F + trustHere * trustHere;
            for (int k = 0; k < 4; ++k) {
                const int px = ix + (k & 1);
                const int py = iy + (k >> 1);
                if (px < 0 || py < 0 || px >= w || py >= h) continue;
                const float spread = ((k & 1) ? fx : 1.0F - fx) * ((k >> 1) ? fy : 1.0F - fy);
                const std::size_t i =
                    static_cast<std::size_t>(py) * static_cast<std::size_t>(w) + static_cast<std::size_t>(px);
                const float wgt = spread * importance;
                weight[i] += wgt;
                out.vx[i] += wgt * sign * v[2 * x];
                out.vy[i] += wgt * sign * v[2 * x + 1];
                out.trust[i] += wgt * trustHere;
                out.coverage[i] += spread;
            }
        }
    }
    for (std::size_t i = 0; i < n; ++i) {
        if (weight[i] <= 0) continue;
        const float inverse = 1.0F / weight[i];
        out.vx[i] *= inverse;
        out.vy[i] *= inverse;
        out.trust[i] *= inverse;
        out.coverage[i] = std::min(1.0F, out.coverage[i]);
    }
    return out;
}

float at(const std::vector<float>& plane, int w, int h, float x, float y) {
    const int ix = std::clamp(static_cast<int>(std::lround(x)), 0, w - 1);
    const int iy = std::clamp(static_cast<int>(std::lround(y)), 0, h - 1);
    return plane[static_cast<std::size_t>(iy) * static_cast<std::size_t>(w) + static_cast<std::size_t>(ix)];
}

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

} // namespace

MidMotion projectMotion(const Vectors& vectors, const std::vector<float>& lumaA,
                        const std::vector<float>& lumaB, double phase) {
    const int w = vectors.forward.width;
    const int h = vectors.forward.height;
    const auto t = static_cast<float>(phase);
    Landing fromA;
    Landing fromB;
    tbb::parallel_invoke([&] { fromA = land(vectors.forward, vectors.forwardTrust, t, 1.0F); },
                         [&] { fromB = land(vectors.backward, vectors.backwardTrust, 1.0F - t, -1.0F); });

    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    MidMotion mid{w, h, {w, h, std::vector<float>(n * 2)}, std::vector<float>(n), std::vector<float>(n)};
    std::vector<std::uint8_t> known(n, 1);
    tbb::parallel_for(0, h, [&](int y) {
        float* motion = mid.motion.row(y);
        for (int x = 0; x < w; ++x) {
            const std::size_t i =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x);
            const float coverA = fromA.coverage[i];
            const float coverB = fromB.coverage[i];
            constexpr float landed = 0.05F;
            float vx = 0;
            float vy = 0;
            const bool a = coverA > landed;
            const bool b = coverB > landed;
            if (a && b) {
                const auto mismatch = [&](float mx, float my) {
                    float sum = 0;
                    for (int dy = -1; dy <= 1; ++dy)
                        for (int dx = -1; dx <= 1; ++dx) {
                            const float px = static_cast<float>(x + dx);
                            const float py = static_cast<float>(y + dy);
                            sum += std::abs(at(lumaA, w, h, px - t * mx, py - t * my) -
                                            at(lumaB, w, h, px + (1 - t) * mx, py + (1 - t) * my));
                        }
                    return sum;
                };
                const float away = std::abs(fromA.vx[i] - fromB.vx[i]) + std::abs(fromA.vy[i] - fromB.vy[i]);
                float favourB = t;
                if (away > 0.5F) {
                    const float ma = mismatch(fromA.vx[i], fromA.vy[i]) + 0.02F;
                    const float mb = mismatch(fromB.vx[i], fromB.vy[i]) + 0.02F;
                    favourB = away > 2.0F ? (mb < ma ? 1.0F : 0.0F) : ma / (ma + mb);
                }
                vx = (1 - favourB) * fromA.vx[i] + favourB * fromB.vx[i];
                vy = (1 - favourB) * fromA.vy[i] + favourB * fromB.vy[i];
            } else if (a) {
                vx = fromA.vx[i];
                vy = fromA.vy[i];
            } else if (b) {
                vx = fromB.vx[i];
                vy = fromB.vy[i];
            } else {
                known[i] = 0;
            }
            motion[2 * x] = vx;
            motion[2 * x + 1] = vy;
            const float seenA = (1 - t) * coverA * (0.05F + fromA.trust[i]) + 1e-6F * (1 - t);
            const float seenB = t * coverB * (0.05F + fromB.trust[i]) + 1e-6F * t;
            mid.shareB[i] = seenB / (seenA + seenB);
            mid.trust[i] = std::max(coverA * fromA.trust[i], coverB * fromB.trust[i]);
        }
    });
    fillHoles(mid, known);
    soften(mid.shareB, w, h);
    return mid;
}

} // namespace yarngap
