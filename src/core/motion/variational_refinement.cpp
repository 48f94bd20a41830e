#include "core/motion/variational_refinement.h"

#include "core/progress.h"
#include "core/widest.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <vector>

namespace yarngap {

namespace {

constexpr float epsilon = 0.001F;
constexpr float zeta = 0.1F; // keeps the length of a derivative from being nothing
constexpr float relaxation = 1.75F;
constexpr float delta = 5;  // weight of pictures that are alike
constexpr float gamma = 10; // weight of gradients that are alike
constexpr int halfSweeps = 2 * 5;

/// What a plane holds to begin with: zeros, or anything where all of it is written before it is read.
enum class Begins { clear, anyhow };

/// Values on pixels, with `room` more of them on each side.
class Plane {
  public:
    Plane(int width, int height, int room, Begins begins)
        : width_(width)
        , height_(height)
        , room_(room)
        , step_(static_cast<std::size_t>(width + 2 * room)) {
        const std::size_t size = step_ * static_cast<std::size_t>(height + 2 * room);
        values_ = begins == Begins::clear ? std::make_unique<float[]>(size)
                                          : std::make_unique_for_overwrite<float[]>(size);
    }

    [[nodiscard]] float* row(int y) {
        return values_.get() + static_cast<std::size_t>(y + room_) * step_ + room_;
    }
    [[nodiscard]] const float* row(int y) const {
        return values_.get() + static_cast<std::size_t>(y + room_) * step_ + room_;
    }
    /// Repeats the outermost pixels into the room.
    void extend() {
        for (int y = 0; y < height_; ++y) {
            float* r = row(y);
            std::fill(r - room_, r, r[0]);
            std::fill(r + width_, r + width_ + room_, r[width_ - 1]);
        }
        for (int y = 1; y <= room_; ++y) {
            std::copy_n(row(0) - room_, step_, row(-y) - room_);
            std::copy_n(row(height_ - 1) - room_, step_, row(height_ - 1 + y) - room_);
        }
    }

  private:
    int width_, height_, room_;
    std::size_t step_;
    std::unique_ptr<float[]> values_;
};

/// Values on the squares of a chessboard, both colours apart, so that those of one lie side by side: of
/// colour 0 in row y, pixel 2i + (y & 1) is number i.
class Chessboard {
  public:
    Chessboard(int width, int height, Begins begins)
        : half_((width + 1) / 2)
        , colours_{Plane(half_, height, 1, begins), Plane(half_, height, 1, begins)} {}

    [[nodiscard]] float* row(int colour, int y) { return colours_[static_cast<std::size_t>(colour)].row(y); }
    [[nodiscard]] const float* row(int colour, int y) const {
        return colours_[static_cast<std::size_t>(colour)].row(y);
    }
    [[nodiscard]] int half() const { return half_; }

    /// `line` has two places for each number.
    void put(int y, const float* line) {
        float* even = row(y & 1, y);
        float* odd = row(1 - (y & 1), y);
        for (int i = 0; i < half_; ++i) {
            even[i] = line[2 * i];
            odd[i] = line[2 * i + 1];
        }
    }
    void get(int y, float* line) const {
        const float* even = row(y & 1, y);
        const float* odd = row(1 - (y & 1), y);
        for (int i = 0; i < half_; ++i) {
            line[2 * i] = even[i];
            line[2 * i + 1] = odd[i];
        }
    }

  private:
    int half_;
    std::array<Plane, 2> colours_;
};

class Refinement {
  public:
    Refinement(const cv::Mat& from, const cv::Mat& to, int border, const cv::Mat& flow,
               const RefinementOptions& options, const std::stop_token& stop)
        : options_(options)
        , stop_(stop)
        , width_(flow.cols)
        , height_(flow.rows)
        , mean_(width_, height_, 2, Begins::anyhow)
        , change_(width_, height_, 1, Begins::anyhow)
        , u_(width_, height_, 1, Begins::anyhow)
        , v_(width_, height_, 1, Begins::anyhow)
        , du_(width_, height_, Begins::clear)
        , dv_(width_, height_, Begins::clear)
        , weight_(width_, height_, Begins::clear)
        , smooth_(width_, height_, 1, Begins::clear)
        , inverse11_(width_, height_, Begins::anyhow)
        , a12_(width_, height_, Begins::anyhow)
        , inverse22_(width_, height_, Begins::anyhow)
        , b1_(width_, height_, Begins::anyhow)
        , b2_(width_, height_, Begins::anyhow)
        , here_(paddedWidth())
        , below_(paddedWidth())
        , equations_(9 * paddedWidth()) {
        move(from, to, border, flow);
    }

    /// All of a round goes through the rows once, each sweep two rows behind the one before, so that what it
    /// needs is still at hand: going over a large picture again and again would wait for memory.
    void run() {
        for (int round = 0; round < options_.rounds; ++round)
            for (int y = 0; y < height_ + halfSweeps; ++y) {
                throwIfStopped(stop_);
                if (y < height_) {
                    weigh(y);
                    assemble(y);
                }
                for (int k = 0; k < halfSweeps; ++k)
                    if (const int row = y - 1 - k; row >= 0 && row < height_) relax(k & 1, row);
            }
    }

    void addTo(cv::Mat& flow) const {
        rows([&](int y) {
            std::vector<float> du(paddedWidth());
            std::vector<float> dv(paddedWidth());
            du_.get(y, du.data());
            dv_.get(y, dv.data());
            auto* out = flow.ptr<float>(y);
            for (int x = 0; x < width_; ++x) {
                out[2 * x] += du[static_cast<std::size_t>(x)];
                out[2 * x + 1] += dv[static_cast<std::size_t>(x)];
            }
        });
    }

  private:
    [[nodiscard]] std::size_t paddedWidth() const { return 2 * static_cast<std::size_t>(du_.half()); }

    template <typename Do>
    void rows(Do work) const {
        constexpr int atOnce = 16;
        tbb::parallel_for(tbb::blocked_range<int>(0, height_, atOnce),
                          [&](const tbb::blocked_range<int>& range) {
                              if (stop_.stop_requested()) return;
                              for (int y = range.begin(); y < range.end(); ++y)
                                  work(y);
                          });
        throwIfStopped(stop_);
    }

    /// Brings `to` back along the motion.
    void move(const cv::Mat& from, const cv::Mat& to, int border, const cv::Mat& flow) {
        const auto step = static_cast<std::ptrdiff_t>(to.step1());
        const auto right = static_cast<float>(to.cols) - 1.01F;
        const auto bottom = static_cast<float>(to.rows) - 1.01F;
        rows([&](int y) {
            const float* own = from.ptr<float>(y + border) + border;
            const auto* along = flow.ptr<float>(y);
            float* mean = mean_.row(y);
            float* change = change_.row(y);
            float* u = u_.row(y);
            float* v = v_.row(y);
            for (int x = 0; x < width_; ++x) {
                u[x] = along[2 * x];
                v[x] = along[2 * x + 1];
                const float px = std::clamp(static_cast<float>(x + border) + u[x], 0.0F, right);
                const float py = std::clamp(static_cast<float>(y + border) + v[x], 0.0F, bottom);
                const int ix = static_cast<int>(px);
                const int iy = static_cast<int>(py);
                const float fx = px - static_cast<float>(ix);
                const float fy = py - static_cast<float>(iy);
                const float* p = to.ptr<float>(iy) + ix;
                const float upper = p[0] + fx * (p[1] - p[0]);
                const float lower = p[step] + fx * (p[step + 1] - p[step]);
                const float moved = upper + fy * (lower - upper);
                mean[x] = 0.5F * (moved + own[x]);
                change[x] = moved - own[x];
            }
        });
        mean_.extend();
        change_.extend();
        u_.extend();
        v_.extend();
    }

    /// The motion so far of a row, with a pixel repeated after it.
    struct Line {
        std::vector<float> u, v;
        explicit Line(std::size_t width)
            : u(width + 1)
            , v(width + 1) {}
    };
    void motionOf(int y, Line& line) const {
        du_.get(y, line.u.data());
        dv_.get(y, line.v.data());
        const float* u = u_.row(y);
        const float* v = v_.row(y);
        for (int x = 0; x < width_; ++x) {
            line.u[static_cast<std::size_t>(x)] += u[x];
            line.v[static_cast<std::size_t>(x)] += v[x];
        }
        line.u[static_cast<std::size_t>(width_)] = line.u[static_cast<std::size_t>(width_ - 1)];
        line.v[static_cast<std::size_t>(width_)] = line.v[static_cast<std::size_t>(width_ - 1)];
    }

    /// Weights of smoothness between a pixel and those to its right and below.
    YARNGAP_WIDEST void weigh(int y) {
        motionOf(y, here_);
        motionOf(std::min(y + 1, height_ - 1), below_);
        const float* u = here_.u.data();
        const float* v = here_.v.data();
        const float* ub = below_.u.data();
        const float* vb = below_.v.data();
        float* out = smooth_.row(y);
        const float alpha = options_.smoothness;
#pragma GCC ivdep
        for (int x = 0; x < width_; ++x) {
            const float ux = u[x + 1] - u[x];
            const float vx = v[x + 1] - v[x];
            const float uy = ub[x] - u[x];
            const float vy = vb[x] - v[x];
            out[x] = alpha / std::sqrt(ux * ux + vx * vx + uy * uy + vy * vy + epsilon * epsilon);
        }
    }

    /// The equations of the pixels of row `y`.
    YARNGAP_WIDEST void assemble(int y) {
        const std::size_t width = paddedWidth();
        // Of each pixel: both changes so far; matrix and right side; weights to the right and below.
        float* du = equations_.data();
        float* dv = du + width;
        float* a11 = dv + width;
        float* a12 = a11 + width;
        float* a22 = a12 + width;
        float* b1 = a22 + width;
        float* b2 = b1 + width;
        float* right = b2 + width;
        float* down = right + width;
        du_.get(y, du);
        dv_.get(y, dv);
        const float* m = mean_.row(y);
        const float* up = mean_.row(y - 1);
        const float* below = mean_.row(y + 1);
        const float* up2 = mean_.row(y - 2);
        const float* below2 = mean_.row(y + 2);
        const float* z = change_.row(y);
        const float* zUp = change_.row(y - 1);
        const float* zBelow = change_.row(y + 1);
#pragma GCC ivdep
        for (int x = 0; x < width_; ++x) {
            const float ix = slope * (m[x + 1] - m[x - 1]);
            const float iy = slope * (below[x] - up[x]);
            const float ixx = slope * slope * (m[x + 2] - 2 * m[x] + m[x - 2]);
            const float iyy = slope * slope * (below2[x] - 2 * m[x] + up2[x]);
            const float ixy = slope * slope * (below[x + 1] - below[x - 1] - up[x + 1] + up[x - 1]);
            const float ixz = slope * (z[x + 1] - z[x - 1]);
            const float iyz = slope * (zBelow[x] - zUp[x]);

            // Divided by squared lengths of derivatives; roots and divisions, which take longest, are put
            // together.
            const float squares = ix * ix + iy * iy + zeta * zeta;
            const float left = z[x] + ix * du[x] + iy * dv[x];
            const float wz = delta / std::sqrt(squares * (left * left + epsilon * epsilon * squares));

            const float squaresX = ixx * ixx + ixy * ixy + zeta * zeta;
            const float squaresY = ixy * ixy + iyy * iyy + zeta * zeta;
            const float leftX = ixz + ixx * du[x] + ixy * dv[x];
            const float leftY = iyz + ixy * du[x] + iyy * dv[x];
            const float both = squaresX * squaresY;
            const float wg = gamma / std::sqrt(both * (leftX * leftX * squaresY + leftY * leftY * squaresX +
                                                       epsilon * epsilon * both));
            const float wx = wg * squaresY;
            const float wy = wg * squaresX;

            a11[x] = wz * ix * ix + wx * ixx * ixx + wy * ixy * ixy + zeta * zeta;
            a12[x] = wz * ix * iy + wx * ixx * ixy + wy * ixy * iyy;
            a22[x] = wz * iy * iy + wx * ixy * ixy + wy * iyy * iyy + zeta * zeta;
            b1[x] = -(wz * ix * z[x] + wx * ixx * ixz + wy * ixy * iyz);
            b2[x] = -(wz * iy * z[x] + wx * ixy * ixz + wy * iyy * iyz);
        }

        const float* s = smooth_.row(y);
        const float* sUp = smooth_.row(y - 1); // nothing above the first row, nor left of the first pixel
        std::copy_n(s, width_, right);
        right[width_ - 1] = 0;
        if (y + 1 < height_)
            std::copy_n(s, width_, down);
        else
            std::fill_n(down, width_, 0.0F);
        const float* u = u_.row(y);
        const float* uUp = u_.row(y - 1);
        const float* uBelow = u_.row(y + 1);
        const float* v = v_.row(y);
        const float* vUp = v_.row(y - 1);
        const float* vBelow = v_.row(y + 1);
#pragma GCC ivdep
        for (int x = 0; x < width_; ++x) {
            const float all = right[x] + down[x] + s[x - 1] + sUp[x];
            const float a = a11[x] + all;
            const float b = a22[x] + all;
            const float inverse = 1 / (a * b);
            a11[x] = b * inverse;
            a22[x] = a * inverse;
            b1[x] += right[x] * (u[x + 1] - u[x]) - s[x - 1] * (u[x] - u[x - 1]) +
                     down[x] * (uBelow[x] - u[x]) - sUp[x] * (u[x] - uUp[x]);
            b2[x] += right[x] * (v[x + 1] - v[x]) - s[x - 1] * (v[x] - v[x - 1]) +
                     down[x] * (vBelow[x] - v[x]) - sUp[x] * (v[x] - vUp[x]);
        }
        inverse11_.put(y, a11);
        a12_.put(y, a12);
        inverse22_.put(y, a22);
        b1_.put(y, b1);
        b2_.put(y, b2);
        std::copy_n(s, width_, right);
        weight_.put(y, right);
    }

    /// One step of over-relaxation for the pixels of one colour in row `y`. Pixels outside have no motion and
    /// nothing to say; those beyond an odd width have zeros for coefficients.
    YARNGAP_WIDEST void relax(int colour, int y) {
        const int other = 1 - colour;
        const int first = (y & 1) ^ colour; // x of number 0
        float* du = du_.row(colour, y);
        float* dv = dv_.row(colour, y);
        const float* uBeside =
            du_.row(other, y) - 1 + first; // to the left of number i at i, to the right at i + 1
        const float* vBeside = dv_.row(other, y) - 1 + first;
        const float* sBeside = weight_.row(other, y) - 1 + first;
        const float* uUp = du_.row(other, y - 1);
        const float* vUp = dv_.row(other, y - 1);
        const float* sUp = weight_.row(other, y - 1);
        const float* uBelow = du_.row(other, y + 1);
        const float* vBelow = dv_.row(other, y + 1);
        const float* s = weight_.row(colour, y);
        const float* i11 = inverse11_.row(colour, y);
        const float* a12 = a12_.row(colour, y);
        const float* i22 = inverse22_.row(colour, y);
        const float* b1 = b1_.row(colour, y);
        const float* b2 = b2_.row(colour, y);
        const int n = du_.half();
#pragma GCC ivdep // what is read beside, above and below has the other colour
        for (int i = 0; i < n; ++i) {
            const float sumU =
                s[i] * (uBeside[i + 1] + uBelow[i]) + sBeside[i] * uBeside[i] + sUp[i] * uUp[i];
            const float sumV =
                s[i] * (vBeside[i + 1] + vBelow[i]) + sBeside[i] * vBeside[i] + sUp[i] * vUp[i];
            const float u = du[i] + relaxation * ((sumU + b1[i] - a12[i] * dv[i]) * i11[i] - du[i]);
            dv[i] += relaxation * ((sumV + b2[i] - a12[i] * u) * i22[i] - dv[i]);
            du[i] = u;
        }
    }

    static constexpr float slope = 0.5F; ///< of a difference between pixels two apart: a derivative

    RefinementOptions options_;
    const std::stop_token& stop_;
    int width_, height_;
    Plane mean_;   ///< of both pictures, one moved
    Plane change_; ///< from one to the other
    Plane u_, v_;  ///< the motion to begin with
    Chessboard du_, dv_;
    Chessboard weight_; ///< smooth_ again
    Plane smooth_;
    Chessboard inverse11_, a12_, inverse22_, b1_, b2_;
    Line here_, below_; ///< of the row that is worked on
    std::vector<float> equations_;
};

} // namespace

void refineMotion(const cv::Mat& from, const cv::Mat& to, int border, cv::Mat& flow,
                  const RefinementOptions& options, const std::stop_token& stop) {
    Refinement refinement(from, to, border, flow, options, stop);
    refinement.run();
    refinement.addTo(flow);
}

} // namespace yarngap
