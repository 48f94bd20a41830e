#include "core/settings/patch.h"

#include "core/choice_names.h"
#include "core/error.h"

#include <algorithm>
#include <cmath>
#include <string>

namespace yarngap {

namespace {

constexpr ChoiceNames<PatchShows, 4> shown{"what a patch shows",
                                           {{{PatchShows::otherwise, "otherwise"},
                                             {PatchShows::softened, "softened"},
                                             {PatchShows::nearest, "nearest"},
                                             {PatchShows::behind, "behind"}}}};

} // namespace

std::string_view name(PatchShows value) {
    return shown.nameOf(value);
}
PatchShows parsePatchShows(std::string_view text) {
    return shown.parse(text);
}

void validate(const Patch& patch) {
    const auto inside = [](int value, int most, const char* what) {
        if (value < 0 || value > most)
            throw Error("A patch has a " + std::string(what) + " of " + std::to_string(value) +
                        ". It should be from 0 to " + std::to_string(most) + ".");
    };
    inside(patch.blur, Patch::mostBlur, "blur");
    inside(patch.feather, Patch::mostFeather, "feather");
    inside(patch.strength, 100, "strength");
    inside(patch.fade, Patch::mostFade, "fade");
    if (patch.keys.empty() || patch.keys.size() > Patch::mostKeys)
        throw Error("A patch has " + std::to_string(patch.keys.size()) + " outlines. It should have 1 to " +
                    std::to_string(Patch::mostKeys) + ".");
    constexpr double farthest = 1e6;
    for (const PatchKey& key : patch.keys) {
        if (&key != patch.keys.data() && !((&key)[-1].at < key.at))
            throw Error("A patch has outlines that are not in order. Draw it again.");
        if (key.points.size() < 3 || key.points.size() > Patch::mostPoints ||
            key.points.size() != patch.keys.front().points.size())
            throw Error("A patch has an outline of " + std::to_string(key.points.size()) +
                        " points. All its outlines should have the same number, 3 to " +
                        std::to_string(Patch::mostPoints) + ".");
        for (const PicturePoint& p : key.points)
            if (!(std::abs(p.x) <= farthest && std::abs(p.y) <= farthest))
                throw Error("A patch has a point far outside the picture. Draw it again.");
    }
}

Patch withKey(Patch patch, const Rational& at, std::vector<PicturePoint> points) {
    const auto place = std::ranges::lower_bound(
        patch.keys, at, [](const Rational& a, const Rational& b) { return a < b; }, &PatchKey::at);
    if (place != patch.keys.end() && place->at == at)
        place->points = std::move(points);
    else
        patch.keys.insert(place, {at, std::move(points)});
    return patch;
}

Patch withPoint(Patch patch, std::size_t after) {
    for (PatchKey& key : patch.keys) {
        if (after >= key.points.size() || key.points.size() >= Patch::mostPoints) return patch;
        const PicturePoint& p = key.points[after];
        const PicturePoint& q = key.points[(after + 1) % key.points.size()];
        key.points.insert(key.points.begin() + static_cast<std::ptrdiff_t>(after) + 1,
                          {(p.x + q.x) / 2, (p.y + q.y) / 2});
    }
    return patch;
}

Patch withoutPoint(Patch patch, std::size_t point) {
    for (PatchKey& key : patch.keys) {
        if (point >= key.points.size() || key.points.size() <= 3) return patch;
        key.points.erase(key.points.begin() + static_cast<std::ptrdiff_t>(point));
    }
    return patch;
}

double shareAt(const Patch& patch, const Rational& first, const Rational& end, const Rational& position) {
    const double strength = patch.strength / 100.0;
    if (patch.fade == 0) return strength;
    const double since = (position - first).toDouble() / patch.fade;
    const double until = (end - position).toDouble() / patch.fade;
    return strength * std::clamp(std::min(since, until), 0.0, 1.0);
}

} // namespace yarngap
