#include "core/mending/carried_outlines.h"

#include "core/motion/aligned_region.h"
#include "core/motion/analysis_picture.h"
#include "core/progress.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap {

namespace {

/// Whether a place is inside an outline; where it crosses itself, what it goes around twice is outside.
bool isInside(const std::vector<PicturePoint>& outline, double x, double y) {
    bool inside = false;
    for (std::size_t i = 0, j = outline.size() - 1; i < outline.size(); j = i++) {
        const PicturePoint& p = outline[i];
        const PicturePoint& q = outline[j];
        if ((p.y > y) != (q.y > y) && x < (q.x - p.x) * (y - p.y) / (q.y - p.y) + p.x) inside = !inside;
    }
    return inside;
}

/// Vectors that begin inside an outline, as places from and to, with their trust.
struct Samples {
    std::vector<PicturePoint> from, to;
    std::vector<double> trust;
};

Samples samplesInside(const VectorField& field, const TrustField& trust, double perX, double perY,
                      const std::vector<PicturePoint>& outline) {
    const auto [left, right] = std::ranges::minmax(outline, {}, &PicturePoint::x);
    const auto [top, bottom] = std::ranges::minmax(outline, {}, &PicturePoint::y);
    const auto inField = [](double v, double per, int most) {
        return std::clamp(static_cast<int>(v / per), 0, most - 1);
    };
    const int x0 = inField(left.x, perX, field.width);
    const int x1 = inField(right.x, perX, field.width);
    const int y0 = inField(top.y, perY, field.height);
    const int y1 = inField(bottom.y, perY, field.height);
    constexpr double wanted = 2000; // samples tell enough
    const int step = std::max(1, static_cast<int>(std::sqrt((x1 - x0 + 1.0) * (y1 - y0 + 1.0) / wanted)));
    Samples out;
    for (int y = y0; y <= y1; y += step)
        for (int x = x0; x <= x1; x += step) {
            const PicturePoint p{(x + 0.5) * perX, (y + 0.5) * perY};
            if (!isInside(outline, p.x, p.y)) continue;
            const float* v = field.row(y) + 2 * static_cast<std::ptrdiff_t>(x);
            out.from.push_back(p);
            out.to.push_back({p.x + v[0], p.y + v[1]});
            out.trust.push_back(0.02 + trust.row(y)[x] / 255.0);
        }
    return out;
}

/// The middle of values, each counting by its weight.
double weightedMedian(std::vector<std::pair<double, double>> values) {
    std::ranges::sort(values);
    double sum = 0;
    for (const auto& [value, weight] : values)
        sum += weight;
    double so = 0;
    for (const auto& [value, weight] : values)
        if ((so += weight) >= sum / 2) return value;
    return 0;
}

/// What most samples do.
Similarity motionOf(const Samples& samples) {
    if (samples.from.empty()) return {};
    std::vector<std::pair<double, double>> across;
    std::vector<std::pair<double, double>> down;
    for (std::size_t i = 0; i < samples.from.size(); ++i) {
        across.emplace_back(samples.to[i].x - samples.from[i].x, samples.trust[i]);
        down.emplace_back(samples.to[i].y - samples.from[i].y, samples.trust[i]);
    }
    Similarity found{.dx = weightedMedian(across), .dy = weightedMedian(down)};
    constexpr std::size_t few = 12;
    if (samples.from.size() < few) return found;
    const Similarity shift = found;
    std::vector<double> weights(samples.from.size());
    for (const double reach : {16.0, 8.0, 4.0, 4.0}) { // pixels, at which a sample counts no more
        for (std::size_t i = 0; i < weights.size(); ++i) {
            const PicturePoint p = found(samples.from[i]);
            const double off = std::hypot(p.x - samples.to[i].x, p.y - samples.to[i].y) / reach;
            weights[i] = off < 1 ? samples.trust[i] * (1 - off * off) * (1 - off * off) : 0;
        }
        found = fittedSimilarity(samples.from, samples.to, weights);
    }
    // What grows by a quarter from frame to frame, or turns by more than that, was not measured well.
    constexpr double most = 0.25;
    if (std::hypot(found.a - 1, found.b) > most) return shift;
    return found;
}

/// `start` as the pictures inside the outline fit best. What that comes to far from there is not taken.
Similarity aligned(const Image& from, const Image& to, const std::vector<PicturePoint>& outline,
                   const Similarity& start) {
    cv::Mat a = analysisPicture(from, AnalyseOn::asIs);
    cv::Mat b = analysisPicture(to, AnalyseOn::asIs);
    // Large pictures at a part of their size: outlines are soft.
    constexpr int widest = 960;
    const double scale = std::min(1.0, static_cast<double>(widest) / a.cols);
    if (scale < 1)
        for (cv::Mat* m : {&a, &b})
            cv::resize(*m, *m, {}, scale, scale, cv::INTER_AREA);
    std::vector<WeighedPixel> region;
    const auto [left, right] = std::ranges::minmax(outline, {}, &PicturePoint::x);
    const auto [top, bottom] = std::ranges::minmax(outline, {}, &PicturePoint::y);
    const int x0 = std::max(0, static_cast<int>(left.x * scale));
    const int x1 = std::min(a.cols - 1, static_cast<int>(right.x * scale));
    const int y0 = std::max(0, static_cast<int>(top.y * scale));
    const int y1 = std::min(a.rows - 1, static_cast<int>(bottom.y * scale));
    constexpr double enough = 10'000; // pixels
    const int step =
        std::max(1, static_cast<int>(std::sqrt((x1 - x0 + 1.0) * std::max(0.0, y1 - y0 + 1.0) / enough)));
    for (int y = y0; y <= y1; y += step)
        for (int x = x0; x <= x1; x += step)
            if (isInside(outline, (x + 0.5) / scale, (y + 0.5) / scale)) region.push_back({x, y, 1});
    const Affine told{start.a, -start.b, start.dx * scale, start.b, start.a, start.dy * scale};
    const Affine found = alignedRegion(a, b, told, region);
    const double most = 0.02 * a.cols + 4;
    for (const PicturePoint& p : outline) {
        const PicturePoint small{p.x * scale, p.y * scale};
        const PicturePoint was = moved(told, small);
        const PicturePoint is = moved(found, small);
        if (!(std::hypot(is.x - was.x, is.y - was.y) < most)) return start;
    }
    return {found[0], found[3], found[2] / scale, found[5] / scale};
}

std::vector<PicturePoint> between(const std::vector<PicturePoint>& a, const std::vector<PicturePoint>& b,
                                  double share) {
    std::vector<PicturePoint> out(a.size());
    for (std::size_t i = 0; i < a.size(); ++i)
        out[i] = {a[i].x + share * (b[i].x - a[i].x), a[i].y + share * (b[i].y - a[i].y)};
    return out;
}

} // namespace

Similarity fittedSimilarity(const std::vector<PicturePoint>& from, const std::vector<PicturePoint>& to,
                            const std::vector<double>& weights) {
    double sum = 0;
    PicturePoint cf;
    PicturePoint ct;
    for (std::size_t i = 0; i < from.size(); ++i) {
        sum += weights[i];
        cf = {cf.x + weights[i] * from[i].x, cf.y + weights[i] * from[i].y};
        ct = {ct.x + weights[i] * to[i].x, ct.y + weights[i] * to[i].y};
    }
    if (!(sum > 0)) return {};
    cf = {cf.x / sum, cf.y / sum};
    ct = {ct.x / sum, ct.y / sum};
    double along = 0;
    double across = 0;
    double spread = 0;
    for (std::size_t i = 0; i < from.size(); ++i) {
        const double x = from[i].x - cf.x;
        const double y = from[i].y - cf.y;
        const double u = to[i].x - ct.x;
        const double v = to[i].y - ct.y;
        along += weights[i] * (x * u + y * v);
        across += weights[i] * (x * v - y * u);
        spread += weights[i] * (x * x + y * y);
    }
    Similarity out;
    if (spread > 1e-9 * sum) {
        out.a = along / spread;
        out.b = across / spread;
    }
    out.dx = ct.x - out.a * cf.x + out.b * cf.y;
    out.dy = ct.y - out.b * cf.x - out.a * cf.y;
    return out;
}

std::string keyOf(const PatchKey& key) {
    std::string text = key.at.toString() + ':';
    constexpr double fine = 64; // of a pixel
    for (const PicturePoint& p : key.points)
        text +=
            std::to_string(std::llround(p.x * fine)) + ' ' + std::to_string(std::llround(p.y * fine)) + ',';
    return text;
}

CarriedOutlines::CarriedOutlines(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                                 std::vector<std::int64_t> cuts, std::shared_ptr<Memory> memory)
    : source_(std::move(source))
    , vectors_(std::move(vectors))
    , cuts_(std::move(cuts))
    , kept_(memory ? std::move(memory) : std::make_shared<Memory>(memoryBytes)) {}

std::vector<PicturePoint> CarriedOutlines::carried(const std::vector<PicturePoint>& points, std::int64_t from,
                                                   int direction, const std::stop_token& stop) const {
    throwIfStopped(stop);
    const std::int64_t gap = direction > 0 ? from : from - 1;
    if (gap < 0 || gap >= lastFrame() || std::ranges::binary_search(cuts_, gap)) return points;
    const ImagePtr a = source_->frame(gap, stop);
    const ImagePtr b = source_->frame(gap + 1, stop);
    const VectorsPtr v = vectors_->coarse(pairOf(*source_, gap, gap + 1), *a, *b, AnalyseOn::asIs, stop);
    const VectorField& field = direction > 0 ? v->forward : v->backward;
    const Similarity start = motionOf(samplesInside(field, direction > 0 ? v->forwardTrust : v->backwardTrust,
                                                    static_cast<double>(a->width()) / field.width,
                                                    static_cast<double>(a->height()) / field.height, points));
    const Similarity motion = direction > 0 ? aligned(*a, *b, points, start) : aligned(*b, *a, points, start);
    std::vector<PicturePoint> out(points.size());
    std::ranges::transform(points, out.begin(), motion);
    return out;
}

std::vector<PicturePoint> CarriedOutlines::beginning(const PatchKey& key, bool ahead,
                                                     const std::stop_token& stop) const {
    const std::int64_t gap = key.at.floor();
    const double phase = (key.at - Rational(gap)).toDouble();
    if (phase == 0) return key.points;
    // As far as it goes over the whole gap, and of that the part that is left. The motion is that of what
    // lies under it at the beginning of the gap, which is looked for in two turns.
    std::vector<PicturePoint> start = key.points;
    std::vector<PicturePoint> end = start;
    for (int turn = 0; turn < 2; ++turn) {
        end = carried(start, gap, 1, stop);
        for (std::size_t i = 0; i < start.size(); ++i) {
            const PicturePoint step{end[i].x - start[i].x, end[i].y - start[i].y};
            start[i] = {key.points[i].x - phase * step.x, key.points[i].y - phase * step.y};
            end[i] = {start[i].x + step.x, start[i].y + step.y};
        }
    }
    return ahead ? end : start;
}

std::vector<PicturePoint> CarriedOutlines::atFrame(const PatchKey& key, std::int64_t frame,
                                                   const std::stop_token& stop) const {
    const std::int64_t floor = key.at.floor();
    const bool isBetween = Rational(floor) != key.at;
    const bool ahead = frame > floor;
    const std::int64_t begin = isBetween && ahead ? floor + 1 : floor;
    const int direction = ahead ? 1 : -1;
    const std::string own = keyOf(key);
    const auto nameOf = [&](std::int64_t n) {
        const auto inside = [&](std::int64_t at) { return std::clamp<std::int64_t>(at, 0, lastFrame()); };
        return own + source_->identityOf(inside(std::min(n, floor)), inside(std::max(n, floor + 1))) + ':' +
               std::to_string(n);
    };
    // Not every one is kept: the names of long ways are long to make.
    constexpr std::int64_t stride = 8;
    const auto isKept = [&](std::int64_t n) { return n == frame || (n - begin) % stride == 0; };
    std::vector<PicturePoint> points;
    std::int64_t at = frame;
    for (; at != begin; at -= direction)
        if (isKept(at))
            if (const auto known = kept_->find(nameOf(at))) {
                points = *known;
                break;
            }
    if (points.empty()) {
        const auto known = kept_->find(nameOf(begin));
        points = known ? *known : beginning(key, ahead, stop);
    }
    constexpr std::size_t overhead = 300;
    const auto keep = [&] {
        if (isKept(at)) kept_->insert(nameOf(at), points, points.size() * sizeof(PicturePoint) + overhead);
    };
    keep();
    while (at != frame) {
        points = carried(points, at, direction, stop);
        at += direction;
        keep();
    }
    return points;
}

std::vector<PicturePoint> CarriedOutlines::fromKey(const PatchKey& from, const Rational& position,
                                                   const std::stop_token& stop) const {
    if (from.at == position) return from.points;
    const std::int64_t frame = position.floor();
    const double phase = (position - Rational(frame)).toDouble();
    if (phase == 0) return atFrame(from, frame, stop);
    // Of the key's own gap both ends are told together, so that it lies where it was drawn.
    return between(atFrame(from, frame, stop), atFrame(from, frame + 1, stop), phase);
}

std::vector<PicturePoint> CarriedOutlines::at(const Patch& patch, const Rational& position,
                                              const std::stop_token& stop) const {
    const auto after = std::ranges::lower_bound(
        patch.keys, position, [](const Rational& a, const Rational& b) { return a < b; }, &PatchKey::at);
    if (after == patch.keys.begin()) return fromKey(*after, position, stop);
    const PatchKey& before = *std::prev(after);
    if (after == patch.keys.end()) return fromKey(before, position, stop);
    const double share = ((position - before.at) / (after->at - before.at)).toDouble();
    return between(fromKey(before, position, stop), fromKey(*after, position, stop), share);
}

std::string CarriedOutlines::key(const Patch& patch, const Rational& position) const {
    const auto after = std::ranges::lower_bound(
        patch.keys, position, [](const Rational& a, const Rational& b) { return a < b; }, &PatchKey::at);
    const PatchKey& first = after == patch.keys.begin() ? *after : *std::prev(after);
    const PatchKey& last = after == patch.keys.end() ? *std::prev(after) : *after;
    const auto inside = [&](std::int64_t n) { return std::clamp<std::int64_t>(n, 0, lastFrame()); };
    std::string key = keyOf(first);
    if (&first != &last) key += keyOf(last);
    return key + source_->identityOf(inside(std::min(first.at, position).floor()),
                                     inside(std::max(last.at, position).floor() + 1));
}

} // namespace yarngap
