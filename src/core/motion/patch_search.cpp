#include "core/motion/patch_search.h"

#include "core/progress.h"
#include "core/widest.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <limits>
#include <vector>

namespace yarngap {

namespace {

using Four = float __attribute__((vector_size(16)));
using EightFloats = float __attribute__((vector_size(32)));
using Level = SearchPicture::Level;

// What is done for every pixel is written out in place, so that it is compiled for each processor with the
// search around it; vectors are handed on by reference, since how they are handed on as values depends on the
// processor.
#define YARNGAP_IN_PLACE [[gnu::always_inline]] inline

template <typename Vector>
YARNGAP_IN_PLACE void load(const float* from, Vector& v) {
    std::memcpy(&v, from, sizeof v);
}

YARNGAP_IN_PLACE float sumOf(const Four& v) {
    return (v[0] + v[1]) + (v[2] + v[3]);
}
YARNGAP_IN_PLACE float sumOf(const EightFloats& v) {
    return ((v[0] + v[4]) + (v[1] + v[5])) + ((v[2] + v[6]) + (v[3] + v[7]));
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

/// The planes of a level where they are read.
struct LevelView {
    const float* picture; ///< of the first pixel without the border
    const float *gradientX, *gradientY;
    std::ptrdiff_t step, gradientStep;
    cv::Size size;

    explicit LevelView(const Level& level)
        : picture(level.picture.ptr<float>(SearchPicture::border) + SearchPicture::border)
        , gradientX(level.gradientX.ptr<float>())
        , gradientY(level.gradientY.ptr<float>())
        , step(static_cast<std::ptrdiff_t>(level.picture.step1()))
        , gradientStep(static_cast<std::ptrdiff_t>(level.gradientX.step1()))
        , size(level.size) {}
};

/// A place between pixels of a picture with a border, kept within it.
struct Place {
    const float* first; // of the pixel up and left of it
    std::ptrdiff_t step;
    float fx, fy;

    YARNGAP_IN_PLACE Place(const LevelView& level, int side, float x, float y)
        : step(level.step) {
        constexpr int border = SearchPicture::border;
        const auto kept = [](float at, float most) {
            constexpr auto least = static_cast<float>(1 - border);
            return (at < least ? least : at > most ? most : at) + border;
        };
        const float qx = kept(x, static_cast<float>(level.size.width + border - side - 2));
        const float qy = kept(y, static_cast<float>(level.size.height + border - side - 2));
        const int ix = static_cast<int>(qx);
        const int iy = static_cast<int>(qy);
        fx = qx - static_cast<float>(ix);
        fy = qy - static_cast<float>(iy);
        first = level.picture + (iy - border) * step + (ix - border);
    }

    /// Values from (x, y) of the patch on, between columns but not yet between rows.
    template <typename Vector>
    YARNGAP_IN_PLACE void across(int x, int y, Vector& out) const {
        const float* p = first + y * step + x;
        Vector next;
        load(p, out);
        load(p + 1, next);
        out += fx * (next - out);
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

/// Motion of a patch on the way.
struct PatchState {
    float x, y;           ///< the best so far
    float startX, startY; ///< from the coarser size
    float cost;
};

/// The search at one size, patches of `Parts` vectors across.
template <typename Vector, int Parts>
class PatchSearch {
  public:
    static constexpr int side = static_cast<int>(sizeof(Vector) / sizeof(float)) * Parts;

    PatchSearch(const Level& from, const Level& to, int stride, const cv::Mat& flow,
                std::vector<PatchState>& states)
        : from_(from)
        , to_(to)
        , patches_{from.size, side, stride}
        , columns_(patches_.columns())
        , flow_(flow)
        , states_(states) {}

    [[nodiscard]] const Patches& patches() const { return patches_; }

    /// Looks for the patches of rows [first, end), which know nothing of others.
    YARNGAP_IN_PLACE void searchRows(int first, int end, const std::stop_token& stop) const {
        std::vector<Template> templates(static_cast<std::size_t>(columns_) *
                                        static_cast<std::size_t>(end - first));
        for (int row = first; row < end && !stop.stop_requested(); ++row) {
            Template* line = templates.data() + std::ptrdiff_t{columns_} * (row - first);
            PatchState* here = states_.data() + std::ptrdiff_t{columns_} * row;
            for (int column = 0; column < columns_; ++column) {
                PatchState& state = here[column];
                const Spot spot = spotOf(row, column);
                line[column] = templateAt(spot);
                const float* u =
                    flow_.ptr<float>(spot.top + side / 2) + std::ptrdiff_t{2} * (spot.left + side / 2);
                state = {u[0], u[1], u[0], u[1], 0};
                state.cost = costAt(spot, u[0], u[1]);
                if (column > 0) offer(spot, here[column - 1], state);
                if (row > first) offer(spot, here[column - columns_], state);
                descend(spot, line[column], state);
            }
        }
        for (int row = end - 1; row >= first && !stop.stop_requested(); --row) {
            const Template* line = templates.data() + std::ptrdiff_t{columns_} * (row - first);
            PatchState* here = states_.data() + std::ptrdiff_t{columns_} * row;
            for (int column = columns_ - 1; column >= 0; --column) {
                const Spot spot = spotOf(row, column);
                bool isOther = false;
                if (column + 1 < columns_) isOther |= offer(spot, here[column + 1], here[column]);
                if (row + 1 < end) isOther |= offer(spot, here[column + columns_], here[column]);
                // Further steps from where the first pass ended gain nothing.
                if (isOther) descend(spot, line[column], here[column]);
            }
        }
    }

    /// Adds what the patches say of rows [begin, end): weights, and both parts of the motion times them, of
    /// one row after the other.
    YARNGAP_IN_PLACE void addTo(std::vector<float>& sums, int begin, int end,
                                const std::stop_token& stop) const {
        const std::ptrdiff_t width = patches_.size.width;
        const int rows = patches_.rows();
        for (int row = 0; row < rows && !stop.stop_requested(); ++row) {
            const int top = patches_.top(row);
            if (top + side <= begin || top >= end) continue;
            const PatchState* here = states_.data() + std::ptrdiff_t{columns_} * row;
            for (int column = 0; column < columns_; ++column) {
                const int left = patches_.left(column);
                const float x = here[column].x;
                const float y = here[column].y;
                const Place place(to_, side, static_cast<float>(left) + x, static_cast<float>(top) + y);
                for (int line = std::max(top, begin); line < std::min(top + side, end); ++line)
                    addLine(sums.data() + 3 * width * (line - begin) + left, place, line - top,
                            from_.picture + line * from_.step + left, x, y);
            }
        }
    }

  private:
    static constexpr float pixels = side * side;
    static constexpr int lanes = side / Parts;

    /// Where a patch lies in `from`.
    struct Spot {
        int left, top;
    };
    YARNGAP_IN_PLACE Spot spotOf(int row, int column) const {
        return {patches_.left(column), patches_.top(row)};
    }

    YARNGAP_IN_PLACE Template templateAt(const Spot& spot) const {
        Vector xx{}, xy{}, yy{}, sx{}, sy{};
        for (int y = 0; y < side; ++y) {
            const std::ptrdiff_t at = (spot.top + y) * from_.gradientStep + spot.left;
            for (int i = 0; i < Parts; ++i) {
                Vector a;
                Vector b;
                load(from_.gradientX + at + lanes * i, a);
                load(from_.gradientY + at + lanes * i, b);
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

    /// Calls take(difference, x, y) with vectors of the patch at motion (u, v).
    template <typename Take>
    YARNGAP_IN_PLACE void eachDifference(const Spot& spot, float u, float v, Take take) const {
        const Place place(to_, side, static_cast<float>(spot.left) + u, static_cast<float>(spot.top) + v);
        std::array<Vector, Parts> above;
        for (int i = 0; i < Parts; ++i)
            place.across(lanes * i, 0, above[static_cast<std::size_t>(i)]);
        const float* own = from_.picture + spot.top * from_.step + spot.left;
        for (int y = 0; y < side; ++y, own += from_.step)
            for (int i = 0; i < Parts; ++i) {
                Vector below;
                Vector mine;
                place.across(lanes * i, y + 1, below);
                load(own + lanes * i, mine);
                Vector& upper = above[static_cast<std::size_t>(i)];
                const Vector d = upper + place.fy * (below - upper) - mine;
                upper = below;
                take(d, lanes * i, y);
            }
    }

    YARNGAP_IN_PLACE float costAt(const Spot& spot, float u, float v) const {
        Vector s{}, ss{};
        eachDifference(
            spot, u, v, [&](const Vector& d, int, int) __attribute__((always_inline)) {
                s += d;
                ss += d * d;
            });
        const float all = sumOf(s);
        return sumOf(ss) - all * all / pixels;
    }

    YARNGAP_IN_PLACE PatchFit fitAt(const Spot& spot, float u, float v, const Template& t) const {
        Vector s{}, ss{}, sx{}, sy{};
        const std::ptrdiff_t at = spot.top * from_.gradientStep + spot.left;
        eachDifference(
            spot, u, v, [&](const Vector& d, int x, int y) __attribute__((always_inline)) {
                Vector gx;
                Vector gy;
                load(from_.gradientX + at + y * from_.gradientStep + x, gx);
                load(from_.gradientY + at + y * from_.gradientStep + x, gy);
                s += d;
                ss += d * d;
                sx += d * gx;
                sy += d * gy;
            });
        const float all = sumOf(s);
        return {sumOf(ss) - all * all / pixels, sumOf(sx) - all * t.meanX, sumOf(sy) - all * t.meanY};
    }

    /// Takes the motion of another patch where it fits better; whether it does.
    YARNGAP_IN_PLACE bool offer(const Spot& spot, const PatchState& other, PatchState& own) const {
        if (other.x == own.x && other.y == own.y) return false;
        const float cost = costAt(spot, other.x, other.y);
        if (cost >= own.cost) return false;
        own.cost = cost;
        own.x = other.x;
        own.y = other.y;
        return true;
    }

    YARNGAP_IN_PLACE void descend(const Spot& spot, const Template& t, PatchState& state) const {
        float u = state.x;
        float v = state.y;
        float before = std::numeric_limits<float>::infinity();
        // Where a patch says little, few and short steps keep it near where it began, which is nearer to
        // the truth than the place that fits best: with whole steps to the end, twice the squared
        // difference was left along the motion of a shot of birds.
        constexpr int steps = 4;
        constexpr float pace = 0.2F;
        PatchFit fit{};
        for (int i = 0; i < steps; ++i) {
            fit = fitAt(spot, u, v, t);
            u -= pace * (t.xx * fit.bx + t.xy * fit.by);
            v -= pace * (t.xy * fit.bx + t.yy * fit.by);
            if (fit.cost >= before) break;
            before = fit.cost;
        }
        const float dx = u - state.startX;
        const float dy = v - state.startY;
        if (dx * dx + dy * dy > pixels) return; // farther than its side
        state.x = u;
        state.y = v;
        state.cost = fit.cost;
    }

    /// One line of a patch: `to` and, a width behind and two, what belongs to the motion (u, v).
    YARNGAP_IN_PLACE void addLine(float* to, const Place& place, int y, const float* own, float u,
                                  float v) const {
        const std::ptrdiff_t width = patches_.size.width;
        for (int i = 0; i < side; i += lanes) {
            Vector upper;
            Vector below;
            Vector mine;
            place.across(i, y, upper);
            place.across(i, y + 1, below);
            load(own + i, mine);
            const Vector d = upper + place.fy * (below - upper) - mine;
            const Vector off = d < 0 ? -d : d;
            const Vector one = Vector{} + 1;
            const Vector weight = one / (off > one ? off : one);
            Vector sum;
            load(to + i, sum);
            sum += weight;
            std::memcpy(to + i, &sum, sizeof sum);
            load(to + i + width, sum);
            sum += u * weight;
            std::memcpy(to + i + width, &sum, sizeof sum);
            load(to + i + 2 * width, sum);
            sum += v * weight;
            std::memcpy(to + i + 2 * width, &sum, sizeof sum);
        }
    }

    LevelView from_;
    LevelView to_;
    Patches patches_;
    int columns_;
    const cv::Mat& flow_;
    std::vector<PatchState>& states_;
};

using SmallSearch = PatchSearch<EightFloats, 1>;
using LargeSearch = PatchSearch<Four, 3>;
static_assert(SmallSearch::side == SearchOptions::smallPatch &&
              LargeSearch::side == SearchOptions::largePatch);

YARNGAP_WIDEST void searchRows(const SmallSearch& search, int first, int end, const std::stop_token& stop) {
    search.searchRows(first, end, stop);
}
YARNGAP_WIDEST void searchRows(const LargeSearch& search, int first, int end, const std::stop_token& stop) {
    search.searchRows(first, end, stop);
}
YARNGAP_WIDEST void addTo(std::vector<float>& sums, const SmallSearch& search, int begin, int end,
                          const std::stop_token& stop) {
    search.addTo(sums, begin, end, stop);
}
YARNGAP_WIDEST void addTo(std::vector<float>& sums, const LargeSearch& search, int begin, int end,
                          const std::stop_token& stop) {
    search.addTo(sums, begin, end, stop);
}

/// Replaces `flow`, the motion to start from, by that of the patches: of each pixel the mean of those over
/// it, weighed by how well they fit there.
template <typename Search>
void improveBy(const Level& from, const Level& to, int stride, cv::Mat& flow, const std::stop_token& stop) {
    const Patches patches{from.size, Search::side, stride};
    const int rows = patches.rows();
    std::vector<PatchState> states(static_cast<std::size_t>(rows) *
                                   static_cast<std::size_t>(patches.columns()));
    const Search search(from, to, stride, flow, states);
    // Of fixed height, so that the number of cores changes nothing.
    constexpr int band = 12;
    tbb::parallel_for(0, (rows + band - 1) / band,
                      [&](int i) { searchRows(search, i * band, std::min(rows, (i + 1) * band), stop); });
    throwIfStopped(stop);
    constexpr int lines = 32;
    const auto width = static_cast<std::size_t>(from.size.width);
    tbb::parallel_for(0, (from.size.height + lines - 1) / lines, [&](int index) {
        const int begin = index * lines;
        const int end = std::min(from.size.height, begin + lines);
        std::vector<float> sums(3 * width * lines);
        addTo(sums, search, begin, end, stop);
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
    throwIfStopped(stop);
}

} // namespace

void improveByPatches(const Level& from, const Level& to, const SearchOptions& options, cv::Mat& flow,
                      const std::stop_token& stop) {
    if (options.patch == SearchOptions::smallPatch)
        improveBy<SmallSearch>(from, to, options.stride, flow, stop);
    else
        improveBy<LargeSearch>(from, to, options.stride, flow, stop);
}

} // namespace yarngap
