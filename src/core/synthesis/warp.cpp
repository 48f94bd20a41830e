#include "core/synthesis/warp.h"

#include "core/image/light_mean.h"
#include "core/image/sample_rows.h"
#include "core/image/sample_types.h"
#include "core/progress.h"
#include "core/synthesis/doubt.h"
#include "core/synthesis/edge_scale.h"
#include "core/synthesis/mid_motion.h"
#include "core/synthesis/moved_plane.h"
#include "core/synthesis/plane_cells.h"
#include "core/synthesis/stand_in.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <span>

namespace yarngap {

namespace {

/// A moved plane before it is written.
struct MovedSamples {
    int width;
    int height;
    std::vector<float> values;
    std::vector<float> differences; ///< side a − side b, 0 where one is not seen
    std::vector<float> shares;      ///< of b
    std::vector<float> instead;     ///< what shows the stand-in

    MovedSamples(int w, int h)
        : width(w)
        , height(h)
        , values(line(h))
        , differences(line(h))
        , shares(line(h))
        , instead(line(h)) {}
    [[nodiscard]] std::size_t line(int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
    }
};

/// Gives back the fine part of the nearer side that mixing took away; see warpBetween.
void keepGrain(MovedSamples& moved, bool nearerIsB) {
    cv::Mat fine(moved.height, moved.width, CV_32F, moved.differences.data());
    cv::Mat mean;
    cv::blur(fine, mean, {7, 7}, {-1, -1}, cv::BORDER_REFLECT);
    fine -= mean;
    // The median of its size, 0.6745 of the standard deviation where it is Gaussian, sees past what does not
    // fit.
    const std::vector<float>& difference = moved.differences;
    std::vector<float> sizes;
    sizes.reserve(difference.size() / 4 + 1);
    for (std::size_t i = 0; i < difference.size(); i += 4)
        if (difference[i] != 0) sizes.push_back(std::abs(difference[i]));
    if (sizes.empty()) return;
    const auto middle = sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2);
    std::nth_element(sizes.begin(), middle, sizes.end());
    const float sigma = *middle / 0.6745F + 1e-6F;
    tbb::parallel_for(std::size_t{0}, difference.size(), [&](std::size_t i) {
        const float d = difference[i];
        const float share = moved.shares[i];
        const float back = nearerIsB ? share - 1 : share; // towards the nearer side alone
        // Whole up to 2.5 standard deviations, nothing above 4: that is no grain.
        moved.values[i] += back * d * std::clamp((4 - std::abs(d) / sigma) / 1.5F, 0.0F, 1.0F);
    });
}

/// A gap at a moment.
class Warp {
  public:
    /// `motions`: those that may be right, of which the mean is shown. `standIn`: of b, in what stands in for
    /// the moved pictures as far as the cells of the first say.
    Warp(const Image& a, const Image& b, std::vector<MidMotion> motions, MidMotion bend, float standIn,
         float t, std::stop_token stop)
        : a_(a)
        , b_(b)
        , motions_(std::move(motions))
        , bend_(std::move(bend))
        , standIn_(standIn)
        , t_(t)
        , stop_(std::move(stop)) {}

    /// Throws Cancelled, as asLight() does.
    [[nodiscard]] Image picture(bool withGrain) const { return pictureOf(motions_, withGrain); }

    /// `picture` with its two sides, and the stand-in, mixed as light; `mixed` is the same without kept
    /// grain.
    [[nodiscard]] Image asLight(Image picture, const Image& mixed, const ColourTags& tags) const {
        LightMean light(a_, tags);
        const float part = 1.0F / static_cast<float>(motions_.size());
        for (const MidMotion& motion : motions_) {
            const auto oneSide = [&](float shareB) {
                MidMotion side = motion;
                for (MidCell& cell : side.cells) {
                    cell.shareB = shareB;
                    cell.instead = 0;
                }
                return pictureOf({std::move(side)}, false);
            };
            light.add(oneSide(0), sharesOf(motion, [part](const MidCell& c) {
                          return part * (1 - c.instead) * (1 - c.shareB);
                      }));
            light.add(oneSide(1), sharesOf(motion, [part](const MidCell& c) {
                          return part * (1 - c.instead) * c.shareB;
                      }));
        }
        const MidMotion& first = motions_.front();
        light.add(a_, sharesOf(first, [this](const MidCell& c) { return c.instead * (1 - standIn_); }));
        light.add(b_, sharesOf(first, [this](const MidCell& c) { return c.instead * standIn_; }));
        return light.addedTo(std::move(picture), mixed);
    }

  private:
    /// `share` of each pixel in `motion`.
    template <typename Share>
    [[nodiscard]] std::vector<float> sharesOf(const MidMotion& motion, Share share) const {
        const auto w = static_cast<std::size_t>(a_.width());
        std::vector<float> shares(w * static_cast<std::size_t>(a_.height()));
        const PlaneCells cells(motion, a_, 0);
        tbb::parallel_for(0, a_.height(), [&](int y) {
            std::vector<MidCell> line;
            cells.row(y, line);
            std::transform(line.begin(), line.end(), shares.data() + w * static_cast<std::size_t>(y), share);
        });
        return shares;
    }

    [[nodiscard]] Image pictureOf(const std::vector<MidMotion>& motions, bool withGrain) const {
        Image out(a_.width(), a_.height(), a_.layout());
        withSampleType(out.layout(), [&](auto sample) {
            for (int p = 0; p < out.planeCount(); ++p) {
                throwIfStopped(stop_);
                makePlane<decltype(sample)>(motions, p, withGrain, out);
            }
            throwIfStopped(stop_);
        });
        return out;
    }

    /// Calls make(y, row) for h rows, until it is stopped.
    template <typename Make>
    void forRows(int h, Make make) const {
        tbb::parallel_for(tbb::blocked_range<int>(0, h), [&](const tbb::blocked_range<int>& rows) {
            MovedPlane::Row made;
            for (int y = rows.begin(); y < rows.end() && !stop_.stop_requested(); ++y)
                make(y, made);
        });
    }

    template <typename Sample>
    void makePlane(const std::vector<MidMotion>& motions, int p, bool withGrain, Image& out) const {
        const MovedPlane moved(a_, b_, motions, bend_, t_, p);
        const int w = out.plane(p).width;
        const int h = out.plane(p).height;
        const auto limit = static_cast<float>(out.layout().maxValue());
        /// A moved value, or what stands in for it.
        const auto shown = [&](float value, float instead, Sample a, Sample b) {
            if (instead <= 0) return sampleOf<Sample>(value, limit);
            const float other = (1 - standIn_) * static_cast<float>(a) + standIn_ * static_cast<float>(b);
            return sampleOf<Sample>(value + instead * (other - value), limit);
        };
        const std::vector<MidCell>& first = motions.front().cells;
        const bool hasStandIn =
            std::any_of(first.begin(), first.end(), [](const MidCell& cell) { return cell.instead > 0; });
        if (!withGrain) {
            forRows(h, [&](int y, MovedPlane::Row& made) {
                const auto row = out.row<Sample>(p, y);
                const auto rowA = a_.row<Sample>(p, y);
                const auto rowB = b_.row<Sample>(p, y);
                moved.read(y, made);
                putSamples(made.values.data(), row.size(), limit, row.data());
                if (!hasStandIn) return;
                for (std::size_t x = 0; x < row.size(); ++x)
                    row[x] = shown(made.values[x], made.cells[x].instead, rowA[x], rowB[x]);
            });
            return;
        }
        MovedSamples kept(w, h);
        forRows(h, [&](int y, MovedPlane::Row& made) {
            const std::size_t line = kept.line(y);
            moved.readWithDifferences(y, made);
            std::copy(made.values.begin(), made.values.end(), &kept.values[line]);
            std::copy(made.differences.begin(), made.differences.end(), &kept.differences[line]);
            for (std::size_t x = 0; x < made.cells.size(); ++x) {
                kept.shares[line + x] = made.cells[x].shareB;
                kept.instead[line + x] = made.cells[x].instead;
            }
        });
        throwIfStopped(stop_);
        keepGrain(kept, t_ > 0.5F);
        tbb::parallel_for(0, h, [&](int y) {
            const auto row = out.row<Sample>(p, y);
            const auto rowA = a_.row<Sample>(p, y);
            const auto rowB = b_.row<Sample>(p, y);
            const std::size_t line = kept.line(y);
            for (std::size_t x = 0; x < row.size(); ++x)
                row[x] = shown(kept.values[line + x], kept.instead[line + x], rowA[x], rowB[x]);
        });
    }

    const Image& a_;
    const Image& b_;
    std::vector<MidMotion> motions_;
    MidMotion bend_;
    float standIn_;
    float t_;
    std::stop_token stop_;
};

float nearerSide(double phase) {
    return phase < 0.5 ? 0.0F : 1.0F;
}

/// Lets the stand-in take over where trust in the first of `motions` is below the limit.
void showStandIn(std::span<MidMotion> motions, const SynthesisOptions& options, double phase) {
    if (options.trustLimit <= 0) return;
    const std::vector<float> weights = standInWeights(motions.front(), options.trustLimit);
    for (MidMotion& motion : motions)
        for (std::size_t i = 0; i < weights.size(); ++i) {
            MidCell& cell = motion.cells[i];
            if (options.standIn == StandIn::side)
                cell.shareB += weights[i] * (nearerSide(phase) - cell.shareB);
            else
                cell.instead = weights[i];
        }
}

} // namespace

WarpedFrame warpBetween(const Image& a, const Image& b, const Vectors& vectors, double phase,
                        const SynthesisOptions& options, const ColourTags& tags, const Beside& beside,
                        const std::stop_token& stop) {
    const CellPicture cellsA = cellPicture(a);
    const CellPicture cellsB = cellPicture(b);
    const auto t = static_cast<float>(phase);
    std::vector<MidMotion> motions = projectMotions(vectors, cellsA, cellsB, phase, options, stop);
    const MidMotion& mid = motions.front();
    throwIfStopped(stop);
    MidMotion bend = bendOf(mid, beside.motion, beside.shake, phase, a.width());
    throwIfStopped(stop);
    const double edgeScale = scaleThatHides(mid, phase);
    const double doubt = doubtOf(mid, cellsA.luma, cellsB.luma, phase, beside.remakeError);
    showStandIn(motions, options, phase);
    throwIfStopped(stop);
    const Warp warp(a, b, std::move(motions), std::move(bend),
                    options.standIn == StandIn::blend ? t : nearerSide(phase), t, stop);
    Image picture = warp.picture(options.keepGrain);
    if (options.linearLight) {
        const Image mixed = options.keepGrain ? warp.picture(false) : picture;
        picture = warp.asLight(std::move(picture), mixed, tags);
    }
    return {std::move(picture), doubt, edgeScale};
}

MidMotion motionOfFrame(const Image& a, const Image& b, const Vectors& vectors, double phase,
                        const SynthesisOptions& options) {
    SynthesisOptions withTrust = options;
    withTrust.trustLimit = std::max(1, options.trustLimit); // which decides whether trust is given, no more
    MidMotion mid = projectMotion(vectors, cellPicture(a), cellPicture(b), phase, withTrust);
    showStandIn({&mid, 1}, options, phase);
    return mid;
}

} // namespace yarngap
