#include "core/finish/camera_path.h"

#include "core/choice_names.h"
#include "core/finish/hold.h"
#include "core/synthesis/bent_path.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <mutex>
#include <numbers>
#include <optional>
#include <utility>

namespace yarngap {

namespace {

constexpr ChoiceNames<CalmBy, 3> ways{
    "way to calm the camera",
    {{{CalmBy::nothing, "off"}, {CalmBy::smoothing, "smooth"}, {CalmBy::still, "still"}}}};

Plane sumOf(const Plane& a, const Plane& b, double share) {
    return {a.a + share * b.a, a.b + share * b.b, a.c + share * b.c,
            a.d + share * b.d, a.e + share * b.e, a.f + share * b.f};
}

CameraPoint mixed(const CameraPoint& a, const CameraPoint& b, double u) {
    return {a.frame,
            a.x + u * (b.x - a.x),
            a.y + u * (b.y - a.y),
            a.turn + u * (b.turn - a.turn),
            a.grow + u * (b.grow - a.grow),
            false};
}

constexpr double deviationPerSecond = 0.4;
constexpr double deviationsWide = 3.5;

} // namespace

std::string_view name(CalmBy value) {
    return ways.nameOf(value);
}
CalmBy parseCalmBy(std::string_view text) {
    return ways.parse(text);
}

struct CalmedCamera::Ways {
    std::vector<Plane> planes;
    std::vector<std::size_t> first, end;
    std::mutex mutex; ///< guards what follows
    std::vector<std::optional<Plane>> smoothed;
};

CalmedCamera::CalmedCamera(const Calm& calm, int width, int height, double pixelAspect,
                           double framesPerSecond)
    : calm_(calm)
    , middle_{width * pixelAspect / 2, height / 2.0}
    , aspect_(pixelAspect)
    , ways_(std::make_shared<Ways>()) {
    const double deviation = std::max(1e-3, deviationPerSecond * calm.seconds * framesPerSecond);
    const double wide = std::min(deviationsWide * deviation, static_cast<double>(calm.path.size()));
    const auto reach = static_cast<std::size_t>(wide) + 1;
    double sum = 0;
    for (std::size_t k = 0; k <= reach; ++k) {
        const double u = static_cast<double>(k) / deviation;
        weights_.push_back(std::exp(-u * u / 2));
        sum += (k == 0 ? 1 : 2) * weights_.back();
    }
    for (double& weight : weights_)
        weight /= sum;
    const CameraPath& path = calm_.path;
    ways_->planes.reserve(path.size());
    for (std::size_t i = 0; i < path.size(); ++i) {
        ways_->planes.push_back(planeOf(path[i]));
        ways_->first.push_back(path[i].begins || i == 0 ? i : ways_->first.back());
    }
    ways_->end.assign(path.size(), path.size());
    for (std::size_t i = path.size(); i-- > 1;)
        ways_->end[i - 1] = ways_->first[i] == i ? i : ways_->end[i];
    ways_->smoothed.resize(path.size());
}

Plane CalmedCamera::planeOf(const CameraPoint& point) const {
    const Plane turned = Plane::turned(point.turn, std::exp(point.grow));
    return Plane::shift(middle_.x + point.x * aspect_, middle_.y + point.y)
        .after(turned)
        .after(Plane::shift(-middle_.x, -middle_.y));
}

std::size_t CalmedCamera::indexOf(std::int64_t frame) const {
    const auto at = std::ranges::lower_bound(calm_.path, frame, {}, &CameraPoint::frame);
    if (at == calm_.path.end()) return calm_.path.size() - 1;
    if (at->frame != frame && at != calm_.path.begin() && !at->begins)
        return static_cast<std::size_t>(at - calm_.path.begin()) - 1; // one that was put in: as before it
    return static_cast<std::size_t>(at - calm_.path.begin());
}

Plane CalmedCamera::way(std::int64_t frame) const {
    return ways_->planes[indexOf(frame)];
}

Plane CalmedCamera::smoothed(std::size_t point) const {
    {
        const std::scoped_lock lock(ways_->mutex);
        if (const auto& known = ways_->smoothed[point]) return *known;
    }
    const Plane found = smooth(point);
    const std::scoped_lock lock(ways_->mutex);
    ways_->smoothed[point] = found;
    return found;
}

Plane CalmedCamera::smooth(std::size_t point) const {
    const std::size_t begin = ways_->first[point];
    const std::size_t end = ways_->end[point];
    if (calm_.by == CalmBy::still) return ways_->planes[begin + (end - begin) / 2];
    const auto first = static_cast<std::int64_t>(begin);
    const auto last = static_cast<std::int64_t>(end) - 1;
    // A line through what is near, so that a pan goes on evenly at both ends of a run as well.
    const auto here = static_cast<std::int64_t>(point);
    const auto reach = static_cast<std::int64_t>(weights_.size()) - 1;
    Plane sum{0, 0, 0, 0, 0, 0};
    Plane slope{0, 0, 0, 0, 0, 0};
    double w0 = 0;
    double w1 = 0;
    double w2 = 0;
    for (std::int64_t i = std::max(first, here - reach); i <= std::min(last, here + reach); ++i) {
        const auto off = static_cast<double>(i - here);
        const double weight = weights_[static_cast<std::size_t>(std::abs(i - here))];
        const Plane& way = ways_->planes[static_cast<std::size_t>(i)];
        sum = sumOf(sum, way, weight);
        slope = sumOf(slope, way, weight * off);
        w0 += weight;
        w1 += weight * off;
        w2 += weight * off * off;
    }
    const double spread = w0 * w2 - w1 * w1;
    const Plane none{0, 0, 0, 0, 0, 0};
    if (!(spread > 1e-9 * w0 * w0)) return sumOf(none, sum, 1 / w0);
    return sumOf(sumOf(none, sum, w2 / spread), slope, -w1 / spread);
}

CameraPoint CalmedCamera::between(const PathPlace& place) const {
    const CameraPoint& a = calm_.path[indexOf(place.first)];
    const CameraPoint& b = calm_.path[indexOf(place.last)];
    if (place.phase == 0 || b.begins) return a;
    CameraPoint at = mixed(a, b, place.phase);
    if (!place.bends) return at;
    // The frame was made along a bent path, so the camera lies on one.
    FollowedPath beside;
    for (const std::int64_t frame : {place.before, place.first, place.last, place.after})
        if (frame >= 0) {
            const CameraPoint& p = calm_.path[indexOf(frame)];
            beside.push_back({frame, {p.x, p.y}});
        }
    const PicturePoint bent = pointAt(beside, place);
    at.x = bent.x;
    at.y = bent.y;
    return at;
}

Plane CalmedCamera::at(const PathPlace& place) const {
    if (!calm_.isCalming()) return {};
    const std::size_t first = indexOf(place.first);
    const std::size_t last = indexOf(place.last);
    Plane aim = smoothed(first);
    if (place.phase > 0 && last != first && !calm_.path[last].begins) {
        const Plane next = smoothed(last);
        aim = sumOf(sumOf({0, 0, 0, 0, 0, 0}, aim, 1 - place.phase), next, place.phase);
    }
    const Plane moved = aim.after(planeOf(between(place)).inverse());
    // The mean of turns is a little smaller than each: taken as a similarity, without that.
    const double re = (moved.a + moved.e) / 2;
    const double im = (moved.d - moved.b) / 2;
    return {re, -im, moved.c, im, re, moved.f};
}

double directionOf(const CameraPath& path, double from, double to) {
    double x = 0;
    double y = 0;
    for (std::size_t i = 1; i < path.size(); ++i) {
        if (path[i].begins) continue;
        const auto frame = static_cast<double>(path[i].frame);
        if (frame <= from || frame > to + 1) continue;
        x += path[i].x - path[i - 1].x;
        y += path[i].y - path[i - 1].y;
    }
    if (std::hypot(x, y) < 1e-6) return 0;
    return std::atan2(y, x) * 180 / std::numbers::pi;
}

} // namespace yarngap
