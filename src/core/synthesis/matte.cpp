#include "core/synthesis/matte.h"

#include "core/error.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

MattePoint between(const MattePoint& a, const MattePoint& b, double s) {
    return {a.x + s * (b.x - a.x), a.y + s * (b.y - a.y)};
}

auto keyAtOrAfter(std::vector<MatteKey>& keys, std::int64_t frame) {
    return std::lower_bound(keys.begin(), keys.end(), frame,
                            [](const MatteKey& key, std::int64_t f) { return key.frame < f; });
}

} // namespace

void validate(const Matte& matte) {
    const auto refuse = [](const std::string& what) {
        throw Error("The matte " + what + ". Draw it again, or restore the project from a copy.");
    };
    if (matte.feather < 0 || matte.feather > Matte::softest)
        refuse("has a feather outside 0 to " + std::to_string(Matte::softest) + " pixels");
    if (matte.keys.size() > Matte::mostKeys) refuse("has too many keys");
    for (std::size_t i = 0; i < matte.keys.size(); ++i) {
        const MatteKey& key = matte.keys[i];
        if (key.frame < 0 || (i > 0 && key.frame <= matte.keys[i - 1].frame))
            refuse("has keys that are not in order");
        if (key.points.size() < 3 || key.points.size() > Matte::mostPoints)
            refuse("has an outline of " + std::to_string(key.points.size()) + " points");
        if (key.points.size() != matte.keys.front().points.size())
            refuse("has outlines with different numbers of points");
        constexpr double farthest = 1e6;
        for (const MattePoint& p : key.points)
            if (!(std::abs(p.x) <= farthest && std::abs(p.y) <= farthest))
                refuse("has a point far outside the picture");
    }
}

std::vector<MattePoint> outlineAt(const Matte& matte, std::int64_t frame) {
    if (matte.keys.empty()) return {};
    const auto after = std::lower_bound(matte.keys.begin(), matte.keys.end(), frame,
                                        [](const MatteKey& key, std::int64_t f) { return key.frame < f; });
    if (after == matte.keys.begin()) return after->points;
    const auto before = std::prev(after);
    if (after == matte.keys.end()) return before->points;
    const double s =
        static_cast<double>(frame - before->frame) / static_cast<double>(after->frame - before->frame);
    std::vector<MattePoint> points(before->points.size());
    for (std::size_t i = 0; i < points.size(); ++i)
        points[i] = between(before->points[i], after->points[i], s);
    return points;
}

Matte withKey(Matte matte, std::int64_t frame, std::vector<MattePoint> points) {
    const auto at = keyAtOrAfter(matte.keys, frame);
    if (at != matte.keys.end() && at->frame == frame)
        at->points = std::move(points);
    else
        matte.keys.insert(at, {frame, std::move(points)});
    validate(matte);
    return matte;
}

Matte withoutKey(Matte matte, std::int64_t frame) {
    std::erase_if(matte.keys, [frame](const MatteKey& key) { return key.frame == frame; });
    return matte;
}

Matte withPoint(Matte matte, std::size_t after) {
    for (MatteKey& key : matte.keys) {
        if (after >= key.points.size() || key.points.size() >= Matte::mostPoints) return matte;
        const MattePoint& next = key.points[(after + 1) % key.points.size()];
        key.points.insert(key.points.begin() + static_cast<std::ptrdiff_t>(after) + 1,
                          between(key.points[after], next, 0.5));
    }
    return matte;
}

Matte withoutPoint(Matte matte, std::size_t point) {
    for (MatteKey& key : matte.keys) {
        if (point >= key.points.size() || key.points.size() <= 3) return matte;
        key.points.erase(key.points.begin() + static_cast<std::ptrdiff_t>(point));
    }
    return matte;
}

} // namespace yarngap
