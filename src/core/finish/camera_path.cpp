#include "core/finish/camera_path.h"

#include "core/choice_names.h"
#include "core/finish/hold.h"
#include "core/inspection/camera_step.h"
#include "core/inspection/small_luma.h"
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

/// `point` after one more step of the camera.
CameraPoint afterStep(const CameraPoint& point, const CameraStep& step) {
    const auto [xx, xy, yx, yy] = step.across;
    const double re = 1 + (xx + yy) / 2;
    const double im = (yx - xy) / 2;
    CameraPoint out = point;
    out.x = re * point.x - im * point.y + step.x;
    out.y = im * point.x + re * point.y + step.y;
    out.turn = point.turn + std::atan2(im, re);
    out.grow = point.grow + std::log(std::hypot(re, im));
    out.begins = false;
    return out;
}

Plane sumOf(const Plane& a, const Plane& b, double share) {
    return {a.a + share * b.a, a.b + share * b.b, a.c + share * b.c,
            a.d + share * b.d, a.e + share * b.e, a.f + share * b.f};
}

CameraPoint mixed(const CameraPoint& a, const CameraPoint& b, double u) {
    return {a.frame, a.x + u * (b.x - a.x), a.y + u * (b.y - a.y), a.turn + u * (b.turn - a.turn),
            a.grow + u * (b.grow - a.grow), false};
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

CameraPath measuredCamera(ShotFrames& frames, std::int64_t first, std::int64_t last,
                          std::span<const std::int64_t> cuts, const Progress& progress,
                          const std::stop_token& stop) {
    CameraPath path;
    CameraPicturePtr before;
    constexpr int widest = 640;
    constexpr int depth = 16;
    for (std::int64_t n = first; n <= last; ++n) {
        throwIfStopped(stop);
        const ImagePtr frame = frames.frame(n, stop);
        const Image small = smallLuma(*frame, widest, depth);
        const CameraPicturePtr picture = cameraPicture(small);
        CameraPoint point{.frame = n, .begins = true};
        if (before && !std::ranges::binary_search(cuts, n - 1)) {
            const CameraStep step =
                cameraStep(*before, *picture).scaled(static_cast<double>(frame->width()) / small.width());
            if (step.known) {
                point = afterStep(path.back(), step);
                point.frame = n;
            }
        }
        path.push_back(point);
        before = picture;
        if (progress) progress(static_cast<double>(n - first + 1) / static_cast<double>(last - first + 1));
    }
    return path;
}

struct CalmedCamera::Ways {
    std::vector<Plane> planes;
    std::vector<std::size_t> first, end;
    std::mutex mutex; ///< guards what follows
    std::vector<std::optional<Plane>> smoothed;
};

CalmedCamera::CalmedCamera(const Calm& calm, int width, int height, double pixelAspect, double framesPerSecond)
    : calm_(calm)
    , middle_{width * pixelAspect / 2, height / 2.0}
    , aspect_(pixelAspect)
    , ways_(std::make_shared<Ways>()) {
    const double deviation = std::max(1e-3, deviationPerSecond * calm.seconds * framesPerSecond);
    const auto reach = static_cast<std::size_t>(deviationsWide * deviation) + 1;
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
    // Mirrored through the ends as often as it takes: 2 S(end) − S(end − j).
    const auto at = [&](std::int64_t i) {
        Plane out{0, 0, 0, 0, 0, 0};
        double sign = 1;
        for (int turns = 0; turns < 64 && (i < first || i > last) && first < last; ++turns) {
            const std::int64_t edge = i < first ? first : last;
            out = sumOf(out, ways_->planes[static_cast<std::size_t>(edge)], 2 * sign);
            sign = -sign;
            i = 2 * edge - i;
        }
        i = std::clamp(i, first, last);
        return sumOf(out, ways_->planes[static_cast<std::size_t>(i)], sign);
    };
    const auto here = static_cast<std::int64_t>(point);
    Plane sum{0, 0, 0, 0, 0, 0};
    for (std::size_t k = 0; k < weights_.size(); ++k) {
        const auto step = static_cast<std::int64_t>(k);
        sum = sumOf(sum, at(here + step), weights_[k]);
        if (k > 0) sum = sumOf(sum, at(here - step), weights_[k]);
    }
    return sum;
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
