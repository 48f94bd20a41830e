#include "core/finish/hold.h"

#include "core/choice_names.h"
#include "core/synthesis/bent_path.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace yarngap {

namespace {

constexpr ChoiceNames<HoldAt, 3> places{
    "place to hold at", {{{HoldAt::own, "own"}, {HoldAt::middle, "middle"}, {HoldAt::chosen, "chosen"}}}};

PicturePoint mixed(const PicturePoint& a, const PicturePoint& b, double share) {
    return {a.x + share * (b.x - a.x), a.y + share * (b.y - a.y)};
}

/// Motion at a point of the path: towards those beside it.
PicturePoint paceBefore(const FollowedPath& path, std::size_t i) {
    if (i == 0) return {};
    const auto frames = static_cast<double>(path[i].frame - path[i - 1].frame);
    return {(path[i].at.x - path[i - 1].at.x) / frames, (path[i].at.y - path[i - 1].at.y) / frames};
}

/// Over missing frames: Hermite's cubic, which goes on as it came, of long stretches a line.
PicturePoint bridge(const FollowedPath& path, std::size_t before, double frames, double u) {
    const FollowedPoint& a = path[before];
    const FollowedPoint& b = path[before + 1];
    constexpr double longest = 12;
    if (frames > longest || before == 0 || before + 2 >= path.size()) return mixed(a.at, b.at, u);
    const PicturePoint out = paceBefore(path, before);
    const PicturePoint in = paceBefore(path, before + 2);
    const double v = 1 - u;
    const auto at = [&](double from, double to, double pace, double paceAfter) {
        return v * v * (1 + 2 * u) * from + u * u * (1 + 2 * v) * to +
               frames * u * v * (v * pace - u * paceAfter);
    };
    return {at(a.at.x, b.at.x, out.x, in.x), at(a.at.y, b.at.y, out.y, in.y)};
}

PicturePoint atFrame(const FollowedPath& path, std::int64_t frame) {
    const auto after = std::ranges::lower_bound(path, frame, {}, &FollowedPoint::frame);
    if (after == path.end()) return path.back().at;
    if (after->frame == frame || after == path.begin()) return after->at;
    const auto before = static_cast<std::size_t>(after - path.begin()) - 1;
    const auto frames = static_cast<double>(after->frame - path[before].frame);
    return bridge(path, before, frames, static_cast<double>(frame - path[before].frame) / frames);
}

} // namespace

std::string_view name(HoldAt value) {
    return places.nameOf(value);
}
HoldAt parseHoldAt(std::string_view text) {
    return places.parse(text);
}

double usualReach(int pictureWidth) {
    constexpr double share = 1.0 / 60;
    constexpr double least = 8;
    return std::max(least, std::round(share * pictureWidth));
}

double bendOff(double p0, double p1, double p2, double p3, double phase) {
    const double t = phase;
    const double q = p2 - 2 * p1 + p0;
    const double r = p3 - 2 * p2 + p1;
    return t * (t - 1) / 2 * ((2 - t) * q / 3 + (1 + t) * r / 3);
}

PicturePoint pointAt(const FollowedPath& path, const PathPlace& place) {
    const PicturePoint a = atFrame(path, place.first);
    if (place.phase == 0 || place.first == place.last) return a;
    const PicturePoint b = atFrame(path, place.last);
    PicturePoint at = mixed(a, b, place.phase);
    if (!place.bends || (place.before < 0 && place.after < 0 && !place.shake)) return at;
    PicturePoint off;
    // At the ends the path goes on straight, as bendOf() has it where a neighbour is missing.
    if (place.before >= 0 && place.after >= 0) {
        const PicturePoint p0 = atFrame(path, place.before);
        const PicturePoint p3 = atFrame(path, place.after);
        const PicturePoint q{b.x - 2 * a.x + p0.x, b.y - 2 * a.y + p0.y};
        const PicturePoint r{p3.x - 2 * b.x + a.x, p3.y - 2 * b.y + a.y};
        const double mean2 = (q.x + r.x) * (q.x + r.x) / 4 + (q.y + r.y) * (q.y + r.y) / 4;
        const double apart2 = (q.x - r.x) * (q.x - r.x) / 4 + (q.y - r.y) * (q.y - r.y) / 4;
        constexpr double noise = 0.2; // pixels
        double fade = mean2 / (mean2 + apart2 + noise * noise);
        off = {bendOff(p0.x, a.x, b.x, p3.x, place.phase), bendOff(p0.y, a.y, b.y, p3.y, place.phase)};
        const double length = fade * std::hypot(off.x, off.y);
        const double most = std::hypot(b.x - a.x, b.y - a.y) / 4 + 0.5;
        if (length > most) fade *= most / length;
        off = {fade * off.x, fade * off.y};
    }
    if (place.shake) {
        const std::array<double, 2> shaken = offLine(*place.shake, place.phase);
        off = mixed(off, {shaken[0], shaken[1]}, static_cast<double>(place.shake->told));
    }
    return {at.x + off.x, at.y + off.y};
}

const FollowedPoint* pointOf(const FollowedPath& path, std::int64_t frame) {
    const auto at = std::ranges::lower_bound(path, frame, {}, &FollowedPoint::frame);
    return at != path.end() && at->frame == frame ? &*at : nullptr;
}

FollowedPath withPoint(FollowedPath path, std::int64_t frame, const PicturePoint& at) {
    const auto place = std::ranges::lower_bound(path, frame, {}, &FollowedPoint::frame);
    const FollowedPoint put{frame, at, 1, true};
    if (place != path.end() && place->frame == frame)
        *place = put;
    else
        path.insert(place, put);
    return path;
}

FollowedPath bridged(const FollowedPath& path, double least) {
    FollowedPath out;
    for (std::size_t i = 0; i < path.size(); ++i)
        if (i == 0 || i + 1 == path.size() || path[i].isPut || path[i].quality >= least)
            out.push_back(path[i]);
    return out;
}

} // namespace yarngap
