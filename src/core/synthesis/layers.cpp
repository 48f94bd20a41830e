#include "core/synthesis/layers.h"

#include "core/image/fill_from_around.h"
#include "core/image/sample_types.h"
#include "core/synthesis/uneven_cells.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <limits>

namespace yarngap {

namespace {

constexpr float whole = 65535;

/// Coverage as 0 to 1 at the resolution of a plane.
cv::Mat shareAt(const Image& coverage, const Image::Plane& plane) {
    const Image::Plane& own = coverage.plane(0);
    const cv::Mat view(own.height, own.width, CV_16U, const_cast<std::byte*>(own.bytes.data()),
                       own.stride); // only read
    cv::Mat share;
    view.convertTo(share, CV_32F, 1 / whole);
    if (share.cols != plane.width || share.rows != plane.height)
        cv::resize(share, share, {plane.width, plane.height}, 0, 0, cv::INTER_AREA);
    return share;
}

/// `frame` where `keepSubject` says, filled elsewhere.
Image layer(const Image& frame, const Image& coverage, bool keepSubject) {
    Image out = frame;
    const auto limit = static_cast<float>(frame.layout().maxValue());
    withSampleType(frame.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        tbb::parallel_for(0, frame.planeCount(), [&](int p) {
            const Image::Plane& plane = frame.plane(p);
            const cv::Mat share = shareAt(coverage, plane);
            cv::Mat known;
            cv::Mat(keepSubject ? share >= 0.95 : share < 0.05).convertTo(known, CV_32F, 1.0 / 255);
            const int count = cv::countNonZero(known);
            if (count == 0 || count == plane.width * plane.height) return; // nothing to fill, or from
            cv::Mat values(plane.height, plane.width, CV_32F);
            for (int y = 0; y < plane.height; ++y) {
                const auto row = frame.row<Sample>(p, y);
                std::transform(row.begin(), row.end(), values.ptr<float>(y),
                               [](Sample s) { return static_cast<float>(s); });
            }
            fillFromAround(values, known);
            for (int y = 0; y < plane.height; ++y) {
                const auto row = out.template row<Sample>(p, y);
                const auto* from = values.ptr<float>(y);
                const auto* own = known.ptr<float>(y);
                for (std::size_t x = 0; x < row.size(); ++x)
                    if (own[x] == 0) row[x] = sampleOf<Sample>(from[x], limit);
            }
        });
    });
    return out;
}

/// Vectors without those of pixels that the subject hides, or of cells in which it hides one; they are then
/// carried nowhere.
Vectors withoutHidden(const Vectors& vectors, const Image& coverA, const Image& coverB) {
    Vectors seen = vectors;
    const auto drop = [](VectorField& field, const Image& cover) {
        constexpr float none = std::numeric_limits<float>::quiet_NaN();
        const int side = field.width < cover.width() ? 2 : 1;
        tbb::parallel_for(0, field.height, [&](int row) {
            float* v = field.row(row);
            for (int y = side * row; y < std::min(side * (row + 1), cover.height()); ++y) {
                const auto share = cover.row<std::uint16_t>(0, y);
                for (std::size_t x = 0; x < share.size(); ++x)
                    if (const std::size_t i = x / static_cast<std::size_t>(side); share[x] > 0)
                        v[2 * i] = v[2 * i + 1] = none;
            }
        });
    };
    drop(seen.forward, coverA);
    drop(seen.backward, coverB);
    return seen;
}

/// `top` over `below`, as far as `share` says.
Image laidOver(const Image& top, const Image& below, const Image& coverage) {
    Image out = below;
    withSampleType(out.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        const auto limit = static_cast<float>(out.layout().maxValue());
        for (int p = 0; p < out.planeCount(); ++p) {
            const cv::Mat share = shareAt(coverage, out.plane(p));
            tbb::parallel_for(0, out.plane(p).height, [&](int y) {
                const auto row = out.template row<Sample>(p, y);
                const auto upper = top.row<Sample>(p, y);
                const auto* k = share.ptr<float>(y);
                for (std::size_t x = 0; x < row.size(); ++x) {
                    const auto under = static_cast<float>(row[x]);
                    row[x] = sampleOf<Sample>(under + k[x] * (static_cast<float>(upper[x]) - under), limit);
                }
            });
        }
    });
    return out;
}

Image inverted(const Image& coverage) {
    Image out = coverage;
    for (int y = 0; y < out.height(); ++y)
        for (std::uint16_t& v : out.row<std::uint16_t>(0, y))
            v = static_cast<std::uint16_t>(65535 - v);
    return out;
}

/// A hash of its samples (FNV-1a, 64 bits), empty where all are 0.
std::string identityOf(const Image& coverage) {
    std::uint64_t hash = 0xcbf29ce484222325;
    bool any = false;
    for (int y = 0; y < coverage.height(); ++y)
        for (const std::uint16_t v : coverage.row<std::uint16_t>(0, y)) {
            any |= v != 0;
            hash = (hash ^ v) * 0x100000001b3;
        }
    return any ? std::to_string(hash) : std::string();
}

double meanOf(const Image& coverage) {
    double sum = 0;
    for (int y = 0; y < coverage.height(); ++y)
        for (const std::uint16_t v : coverage.row<std::uint16_t>(0, y))
            sum += v;
    return sum / (65535.0 * coverage.width() * coverage.height());
}

/// How much of the moment the subject covers.
Image coverageAt(const FrameLayers& a, const FrameLayers& b, const LayerVectors& vectors, double phase,
                 bool onTop, const SynthesisOptions& options) {
    SynthesisOptions plain;
    plain.sides = options.sides;
    if (onTop) return warpBetween(a.coverage, b.coverage, *vectors.subject, phase, plain).image;
    // What is left of the background moves with it, and covers the subject wherever it goes.
    return inverted(
        warpBetween(inverted(a.coverage), inverted(b.coverage), *vectors.background, phase, plain).image);
}

} // namespace

FrameLayers layersOf(const Image& frame, Image coverage) {
    FrameLayers out;
    out.identity = identityOf(coverage);
    tbb::parallel_invoke([&] { out.subject = layer(frame, coverage, true); },
                         [&] { out.background = layer(frame, coverage, false); });
    out.coverage = std::move(coverage);
    return out;
}

namespace {

WarpedFrame movedBackground(const LayeredGap& gap, const LayerVectors& vectors,
                            const SynthesisOptions& options, const ColourTags& tags,
                            const std::stop_token& stop) {
    return warpBetween(gap.a.background, gap.b.background,
                       withoutHidden(*vectors.background, gap.a.coverage, gap.b.coverage), gap.phase, options,
                       tags, {}, stop);
}

/// The subject over the background that has been moved to its moment.
WarpedFrame withSubject(const WarpedFrame& background, const LayeredGap& gap, const LayerVectors& vectors,
                        bool onTop, const SynthesisOptions& options, const ColourTags& tags,
                        const std::stop_token& stop) {
    const WarpedFrame subject =
        warpBetween(gap.a.subject, gap.b.subject, *vectors.subject, gap.phase, options, tags, {}, stop);
    const Image coverage = coverageAt(gap.a, gap.b, vectors, gap.phase, onTop, options);
    const double seen = meanOf(coverage);
    WarpedFrame out;
    out.image = laidOver(subject.image, background.image, coverage);
    out.edgeScale = background.edgeScale; // where the subject leaves the picture, so does its coverage
    out.doubt = seen * subject.doubt + (1 - seen) * background.doubt;
    return out;
}

/// 65535 wherever the subject covers anything.
Image anyCoverage(const Image& coverage) {
    Image out = coverage;
    for (int y = 0; y < out.height(); ++y)
        for (std::uint16_t& v : out.row<std::uint16_t>(0, y))
            v = v > 0 ? 65535 : 0;
    return out;
}

} // namespace

WarpedFrame warpLayers(const FrameLayers& a, const FrameLayers& b, const LayerVectors& vectors, double phase,
                       bool onTop, const SynthesisOptions& options, const ColourTags& tags,
                       const std::stop_token& stop) {
    const LayeredGap gap{a, b, phase};
    return withSubject(movedBackground(gap, vectors, options, tags, stop), gap, vectors, onTop, options, tags,
                       stop);
}

WarpedFrame warpParts(const LayeredGap& background, const LayeredGap& subject, const LayerVectors& vectors,
                      bool onTop, const SynthesisOptions& options, const ColourTags& tags,
                      const std::stop_token& stop) {
    WarpedFrame moved = movedBackground(background, vectors, options, tags, stop);
    if (background.phase == 0 || background.phase == 1) {
        const FrameLayers& there = background.phase == 0 ? background.a : background.b;
        moved.image = laidOver(moved.image, there.background, anyCoverage(there.coverage));
        moved.doubt = 0;
    }
    return withSubject(moved, subject, vectors, onTop, options, tags, stop);
}

MidMotion motionOfLayers(const FrameLayers& a, const FrameLayers& b, const LayerVectors& vectors,
                         double phase, bool onTop, const SynthesisOptions& options) {
    MidMotion out = motionOfFrame(a.background, b.background,
                                  withoutHidden(*vectors.background, a.coverage, b.coverage), phase, options);
    const MidMotion subject = motionOfFrame(a.subject, b.subject, *vectors.subject, phase, options);
    const Image coverage = coverageAt(a, b, vectors, phase, onTop, options);
    constexpr std::uint16_t half = 32768;
    for (int y = 0; y < out.height; ++y) {
        const auto covered = coverage.row<std::uint16_t>(0, 2 * y);
        for (int x = 0; x < out.width; ++x) {
            if (covered[2 * static_cast<std::size_t>(x)] < half) continue;
            out.row(y)[x] = subject.row(y)[x];
            const std::size_t cell = static_cast<std::size_t>(y) * static_cast<std::size_t>(out.width) +
                                     static_cast<std::size_t>(x);
            out.trust[cell] = subject.trust[cell];
        }
    }
    markSeams(out);
    return out;
}

} // namespace yarngap
