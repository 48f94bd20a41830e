#include "core/motion/dense_search.h"

#include "core/motion/variational_refinement.h"
#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <limits>

namespace yarngap {

namespace {

using Four = float __attribute__((vector_size(16)));
using Level = SearchPicture::Level;

Four loadFour(const float* from) {
    Four v;
    std::memcpy(&v, from, sizeof v);
    return v;
}

void storeFour(float* to, const Four& v) {
    std::memcpy(to, &v, sizeof v);
}

float sumOf(const Four& v) {
    return (v[0] + v[1]) + (v[2] + v[3]);
}

/// Squares over a level, the last ones of a row and of a column moved in so that they lie inside.
struct Patches {
    cv::Size size; // of the picture
    int side;
    int stride;

    [[nodiscard]] int columns() const { return countOver(size.width); }
    [[nodiscard]] int rows() const { return countOver(size.height); }
    [[nodiscard]] int left(int column) const { return std::min(column * stride, size.width - side); }
    [[nodiscard]] int top(int row) const { return std::min(row * stride, size.height - side); }

  private:
    [[nodiscard]] int countOver(int length) const { return (length - side + stride - 1) / stride + 1; }
};

/// A place between pixels of a picture with a border, kept within it.
struct Place {
    const float* first; // of the pixel up and left of it
    std::size_t step;
    float fx, fy;

    Place(const Level& level, int side, float x, float y)
        : step(level.picture.step1()) {
        constexpr int border = SearchPicture::border;
        const auto kept = [&](float at, int length) {
            return std::clamp(at, static_cast<float>(1 - border),
                              static_cast<float>(length + border - side - 2));
        };
        const float qx = kept(x, level.size.width) + border;
        const float qy = kept(y, level.size.height) + border;
        const int ix = static_cast<int>(qx);
        const int iy = static_cast<int>(qy);
        fx = qx - static_cast<float>(ix);
        fy = qy - static_cast<float>(iy);
        first = level.picture.ptr<float>(iy) + ix;
    }

    /// Four values from (x, y) of the patch on, between columns but not yet between rows.
    [[nodiscard]] Four across(int x, int y) const {
        const float* p = first + static_cast<std::size_t>(y) * step + x;
        const Four a = loadFour(p);
        return a + fx * (loadFour(p + 1) - a);
    }
};

/// A patch of `from`: what does not depend on where it is looked for.
struct Template {
    float xx = 0, xy = 0, yy = 0; // inverse of its Hessian
    float meanX = 0, meanY = 0;   // of its gradients
};

/// How a patch fits at a place.
struct PatchFit {
    float cost; // sum of squared differences from their mean
    float bx, by;
};

/// The search at one size. `Fours`: a fourth of a patch's side.
template <int Fours>
class PatchSearch {
  public:
    PatchSearch(const Level& from, const Level& to, int stride, const std::stop_token& stop)
        : from_(from)
        , to_(to)
        , patches_{from.size, side, stride}
        , stop_(stop) {}

    /// Replaces `flow`, the motion to start from, by that of the patches.
    void improve(cv::Mat& flow) {
        columns_ = patches_.columns();
        const int rows = patches_.rows();
        found_ = cv::Mat(rows, columns_, CV_32FC2);
        start_ = cv::Mat(rows, columns_, CV_32FC2);
        costs_ = cv::Mat(rows, columns_, CV_32F);
        // Of fixed height, so that the number of cores changes nothing.
        constexpr int band = 12;
        tbb::parallel_for(0, (rows + band - 1) / band, [&](int i) {
            const int first = i * band;
            const int end = std::min(rows, first + band);
            std::vector<Template> templates(static_cast<std::size_t>(columns_) *
                                            static_cast<std::size_t>(end - first));
            const auto templateOf = [&](int row, int column) -> Template& {
                return templates[static_cast<std::size_t>(row - first) * static_cast<std::size_t>(columns_) +
                                 static_cast<std::size_t>(column)];
            };
            for (int row = first; row < end && !stop_.stop_requested(); ++row)
                for (int column = 0; column < columns_; ++column) {
                    Template& t = templateOf(row, column);
                    t = templateAt(row, column);
                    const cv::Vec2f u =
                        flow.at<cv::Vec2f>(patches_.top(row) + side / 2, patches_.left(column) + side / 2);
                    start_.at<cv::Vec2f>(row, column) = u;
                    found_.at<cv::Vec2f>(row, column) = u;
                    costs_.at<float>(row, column) = fitAt(row, column, u, t).cost;
                    if (column > 0) offer(row, column, row, column - 1, t);
                    if (row > first) offer(row, column, row - 1, column, t);
                    descend(row, column, t);
                }
            for (int row = end - 1; row >= first && !stop_.stop_requested(); --row)
                for (int column = columns_ - 1; column >= 0; --column) {
                    const Template& t = templateOf(row, column);
                    if (column + 1 < columns_) offer(row, column, row, column + 1, t);
                    if (row + 1 < end) offer(row, column, row + 1, column, t);
                    descend(row, column, t);
                }
        });
        throwIfStopped(stop_);
        spread(flow);
        throwIfStopped(stop_);
    }

  private:
    static constexpr int side = 4 * Fours;
    static constexpr float pixels = side * side;

    [[nodiscard]] Template templateAt(int row, int column) const {
        Four xx{}, xy{}, yy{}, sx{}, sy{};
        for (int y = 0; y < side; ++y) {
            const float* gx = from_.gradientX.ptr<float>(patches_.top(row) + y) + patches_.left(column);
            const float* gy = from_.gradientY.ptr<float>(patches_.top(row) + y) + patches_.left(column);
            for (int i = 0; i < Fours; ++i) {
                const Four a = loadFour(gx + 4 * i);
                const Four b = loadFour(gy + 4 * i);
                xx += a * a;
                xy += a * b;
                yy += b * b;
                sx += a;
                sy += b;
            }
        }
        Template t;
        t.meanX = sumOf(sx) / pixels;
        t.meanY = sumOf(sy) / pixels;
        constexpr float least = 0.01F * pixels; // lest there be no inverse
        const float hxx = sumOf(xx) + least;
        const float hxy = sumOf(xy);
        const float hyy = sumOf(yy) + least;
        const float inverse = 1.0F / (hxx * hyy - hxy * hxy);
        t.xx = hyy * inverse;
        t.xy = -hxy * inverse;
        t.yy = hxx * inverse;
        return t;
    }

    [[nodiscard]] PatchFit fitAt(int row, int column, const cv::Vec2f& u, const Template& t) const {
        const int left = patches_.left(column);
        const int top = patches_.top(row);
        const Place place(to_, side, static_cast<float>(left) + u[0], static_cast<float>(top) + u[1]);
        std::array<Four, Fours> above;
        for (int i = 0; i < Fours; ++i)
            above[static_cast<std::size_t>(i)] = place.across(4 * i, 0);
        Four s{}, ss{}, sx{}, sy{};
        for (int y = 0; y < side; ++y) {
            const float* own =
                from_.picture.ptr<float>(top + y + SearchPicture::border) + left + SearchPicture::border;
            const float* gx = from_.gradientX.ptr<float>(top + y) + left;
            const float* gy = from_.gradientY.ptr<float>(top + y) + left;
            for (int i = 0; i < Fours; ++i) {
                const Four below = place.across(4 * i, y + 1);
                Four& upper = above[static_cast<std::size_t>(i)];
                const Four d = upper + place.fy * (below - upper) - loadFour(own + 4 * i);
                upper = below;
                s += d;
                ss += d * d;
                sx += d * loadFour(gx + 4 * i);
                sy += d * loadFour(gy + 4 * i);
            }
        }
        const float all = sumOf(s);
        return {sumOf(ss) - all * all / pixels, sumOf(sx) - all * t.meanX, sumOf(sy) - all * t.meanY};
    }

    /// Takes the motion of another patch where it fits better.
    bool offer(int row, int column, int otherRow, int otherColumn, const Template& t) {
        const auto& other = found_.at<cv::Vec2f>(otherRow, otherColumn);
        auto& own = found_.at<cv::Vec2f>(row, column);
        if (other == own) return false;
        auto& cost = costs_.at<float>(row, column);
        const float otherCost = fitAt(row, column, other, t).cost;
        if (otherCost >= cost) return false;
        cost = otherCost;
        own = other;
        return true;
    }

    void descend(int row, int column, const Template& t) {
        auto& best = found_.at<cv::Vec2f>(row, column);
        auto& cost = costs_.at<float>(row, column);
        cv::Vec2f u = best;
        float before = std::numeric_limits<float>::infinity();
        // Where a patch says little, few and short steps keep it near where it began, which is nearer to
        // the truth than the place that fits best: with whole steps to the end, twice the squared
        // difference was left along the motion of a shot of birds.
        constexpr int steps = 4;
        constexpr float pace = 0.2F;
        PatchFit fit{};
        for (int i = 0; i < steps; ++i) {
            fit = fitAt(row, column, u, t);
            u -= pace * cv::Vec2f(t.xx * fit.bx + t.xy * fit.by, t.xy * fit.bx + t.yy * fit.by);
            if (fit.cost >= before) break;
            before = fit.cost;
        }
        const auto& start = start_.at<cv::Vec2f>(row, column);
        if (std::hypot(u[0] - start[0], u[1] - start[1]) > side) return;
        best = u;
        cost = fit.cost;
    }

    /// The mean of the patches over each pixel, weighed by how well they fit there.
    void spread(cv::Mat& flow) const {
        constexpr int band = 32;
        const int rows = patches_.rows();
        const int height = patches_.size.height;
        const auto width = static_cast<std::size_t>(patches_.size.width);
        tbb::parallel_for(0, (height + band - 1) / band, [&](int index) {
            const int begin = index * band;
            const int end = std::min(height, begin + band);
            std::vector<float> sums(3 * width * band);
            for (int row = 0; row < rows && !stop_.stop_requested(); ++row) {
                const int top = patches_.top(row);
                if (top + side <= begin || top >= end) continue;
                for (int column = 0; column < columns_; ++column) {
                    const auto& u = found_.at<cv::Vec2f>(row, column);
                    const int left = patches_.left(column);
                    const Place place(to_, side, static_cast<float>(left) + u[0],
                                      static_cast<float>(top) + u[1]);
                    for (int y = std::max(top, begin); y < std::min(top + side, end); ++y) {
                        const float* own = from_.picture.ptr<float>(y + SearchPicture::border) + left +
                                           SearchPicture::border;
                        float* to = sums.data() + 3 * width * static_cast<std::size_t>(y - begin) + left;
                        for (int i = 0; i < side; i += 4) {
                            const Four upper = place.across(i, y - top);
                            const Four d =
                                upper + place.fy * (place.across(i, y - top + 1) - upper) - loadFour(own + i);
                            const Four off = d < 0 ? -d : d;
                            constexpr Four one{1, 1, 1, 1};
                            const Four weight = one / (off > one ? off : one);
                            float* w = to + i;
                            storeFour(w, loadFour(w) + weight);
                            storeFour(w + width, loadFour(w + width) + u[0] * weight);
                            storeFour(w + 2 * width, loadFour(w + 2 * width) + u[1] * weight);
                        }
                    }
                }
            }
            for (int y = begin; y < end; ++y) {
                const float* in = sums.data() + 3 * width * static_cast<std::size_t>(y - begin);
                auto* out = flow.ptr<float>(y);
                for (std::size_t x = 0; x < width; ++x) {
                    const float inverse = 1.0F / in[x];
                    out[2 * x] = in[width + x] * inverse;
                    out[2 * x + 1] = in[2 * width + x] * inverse;
                }
            }
        });
    }

    const Level& from_;
    const Level& to_;
    Patches patches_;
    int columns_ = 0;
    const std::stop_token& stop_;
    cv::Mat found_, start_, costs_;
};

void improveByPatches(const Level& from, const Level& to, const SearchOptions& options, cv::Mat& flow,
                      const std::stop_token& stop) {
    if (options.patch == SearchOptions::smallPatch)
        PatchSearch<SearchOptions::smallPatch / 4>(from, to, options.stride, stop).improve(flow);
    else
        PatchSearch<SearchOptions::largePatch / 4>(from, to, options.stride, stop).improve(flow);
}

} // namespace

SearchPicture::SearchPicture(const cv::Mat& picture, int finest)
    : size_(picture.size()) {
    constexpr int patch = SearchOptions::smallPatch;
    cv::Mat small = picture;
    for (int i = 0; i < finest && std::min(small.cols, small.rows) >= 2 * patch; ++i)
        cv::resize(small, small, {}, 0.5, 0.5, cv::INTER_AREA);
    // At the coarsest a patch is a sixth of the longer side or more: it would not know where it is beyond
    // that.
    for (;; cv::resize(small, small, {}, 0.5, 0.5, cv::INTER_AREA)) {
        Level level;
        level.size = small.size();
        cv::copyMakeBorder(small, level.picture, border, border, border, border, cv::BORDER_REPLICATE);
        level.picture.convertTo(level.picture, CV_32F);
        cv::Sobel(level.picture, level.gradientX, CV_32F, 1, 0, 3, 1.0 / 8);
        cv::Sobel(level.picture, level.gradientY, CV_32F, 0, 1, 3, 1.0 / 8);
        const cv::Rect inside(border, border, small.cols, small.rows);
        level.gradientX = level.gradientX(inside);
        level.gradientY = level.gradientY(inside);
        levels_.push_back(std::move(level));
        if (std::min(small.cols, small.rows) < 2 * patch || std::max(small.cols, small.rows) < 6 * patch)
            break;
    }
}

cv::Mat scaledMotion(const cv::Mat& flow, const cv::Size& size) {
    const cv::Scalar factor(static_cast<double>(size.width) / flow.cols,
                            static_cast<double>(size.height) / flow.rows);
    cv::Mat out;
    cv::resize(flow, out, size, 0, 0, cv::INTER_LINEAR);
    cv::multiply(out, factor, out);
    return out;
}

cv::Mat denseSearch(const SearchPicture& from, const SearchPicture& to, const SearchOptions& options,
                    const std::stop_token& stop) {
    SearchOptions fitting = options;
    const cv::Size finest = from.levels().front().size;
    if (std::min(finest.width, finest.height) < options.patch) fitting.patch = SearchOptions::smallPatch;
    fitting.stride = std::min(options.stride, fitting.patch);
    cv::Mat flow;
    for (std::size_t i = from.levels().size(); i-- > 0;) {
        const Level& a = from.levels()[i];
        const Level& b = to.levels()[i];
        if (std::min(a.size.width, a.size.height) < fitting.patch) continue;
        if (flow.empty()) {
            flow = cv::Mat::zeros(a.size, CV_32FC2);
        } else {
            flow = scaledMotion(flow, a.size);
        }
        improveByPatches(a, b, fitting, flow, stop);
        refineMotion(a.picture, b.picture, SearchPicture::border, flow, options.smoothness, stop);
    }
    return scaledMotion(flow, from.size());
}

} // namespace yarngap
