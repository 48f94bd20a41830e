#include "core/finish/finish.h"

#include "core/decimal.h"
#include "core/error.h"

#include <algorithm>
#include <cmath>
#include <string>

namespace yarngap {

namespace {

void requireIn(double value, double least, double most, const std::string& what) {
    if (value >= least && value <= most) return; // and it is a number
    constexpr int digits = 3;
    throw Error(what + " is " + decimal(value, digits) + ". It should be from " + decimal(least, digits) +
                " to " + decimal(most, digits) + '.');
}

template <typename Key>
void requireOrder(const std::vector<Key>& keys, const char* what) {
    if (keys.size() > Finish::mostKeys)
        throw Error("There are more than " + std::to_string(Finish::mostKeys) + " keys of " + what + '.');
    for (std::size_t i = 1; i < keys.size(); ++i)
        if (!(keys[i - 1].at < keys[i].at))
            throw Error("Key " + std::to_string(i + 1) + " of " + what +
                        " does not lie after the one before it. Put keys in order.");
}

void validateFrame(const FrameChoice& frame) {
    if (frame.size)
        for (const int side : {frame.size->width, frame.size->height})
            if (side < FrameChoice::smallest || side > FrameChoice::largest)
                throw Error("A frame of " + std::to_string(frame.size->width) + "x" +
                            std::to_string(frame.size->height) + " cannot be made. Each side goes from " +
                            std::to_string(FrameChoice::smallest) + " to " +
                            std::to_string(FrameChoice::largest) + " pixels.");
    if (frame.pixelAspect) requireIn(frame.pixelAspect->toDouble(), 0.1, 10, "The pixel aspect");
    for (const int part : frame.around)
        requireIn(part, 0, 255, "A part of the colour around the picture");
}

void validatePath(const FollowedPath& path) {
    if (path.size() > Hold::mostPoints) throw Error("The path that is held has too many points.");
    constexpr double far = 1e6; // pixels
    for (std::size_t i = 0; i < path.size(); ++i) {
        requireIn(path[i].at.x, -far, far, "A place of the path that is held");
        requireIn(path[i].at.y, -far, far, "A place of the path that is held");
        requireIn(path[i].quality, 0, 1, "A quality of the path that is held");
        if (i > 0 && path[i].frame <= path[i - 1].frame)
            throw Error("The path that is held has frame " + std::to_string(path[i].frame) + " after frame " +
                        std::to_string(path[i - 1].frame) + ". Put frames in order.");
    }
}

void validateCalm(const Calm& calm) {
    requireIn(calm.seconds, Calm::shortest, Calm::longest, "The time to calm the camera over, in seconds,");
    if (calm.path.size() > Hold::mostPoints) throw Error("The path of the camera has too many points.");
    constexpr double far = 1e9;
    for (std::size_t i = 0; i < calm.path.size(); ++i) {
        const CameraPoint& p = calm.path[i];
        requireIn(p.x, -far, far, "A place of the camera");
        requireIn(p.y, -far, far, "A place of the camera");
        requireIn(p.turn, -far, far, "A turn of the camera");
        requireIn(p.grow, -10, 10, "A growth of the camera's picture");
        if (i == 0 ? !p.begins : p.frame <= calm.path[i - 1].frame)
            throw Error("The path of the camera is not in order. Measure it again.");
    }
}

void validateTexture(const Texture& t) {
    requireIn(t.softenRadius, Texture::leastRadius, Texture::mostRadius, "The radius to soften by");
    requireIn(t.sharpenRadius, Texture::leastRadius, Texture::mostRadius, "The radius to sharpen by");
    requireIn(t.soften, 0, 100, "The strength of softening");
    requireIn(t.sharpen, 0, Texture::mostSharpen, "The strength of sharpening");
    requireIn(t.grainStrength, 0, Texture::mostGrain, "The strength of grain");
    requireIn(t.grainSize, 0, Texture::mostGrainSize, "The size of grain");
    for (const double own : t.own.luma)
        requireIn(own, 0, 1, "The shot's own grain");
    requireIn(t.own.chroma, 0, 1, "The shot's own grain");
    requireIn(t.own.size, 0, 10, "The size of the shot's own grain");
}

} // namespace

bool Finish::isNothing() const {
    Finish bare;
    // What has been measured touches nothing while it is not used.
    bare.hold = hold;
    bare.calm = calm;
    bare.texture = texture;
    bare.frame.around = frame.around;
    bare.frame.fit = frame.fit;
    bare.hideEdges.from = hideEdges.from;
    bare.hideEdges.to = hideEdges.to;
    bare.hideEdges.fade = hideEdges.fade;
    const bool isFitted = !frame.size && !frame.pixelAspect;
    return *this == bare && isFitted && !hold.isHolding() && !calm.isCalming() && !texture.softens() &&
           !texture.sharpens() && texture.grain == GrainKind::none;
}

void validate(const Finish& finish) {
    validateFrame(finish.frame);
    requireOrder(finish.places, "place");
    for (const PlaceKey& key : finish.places) {
        requireIn(key.scale, PlaceKey::least, PlaceKey::most, "A scale");
        requireIn(key.x, -PlaceKey::farthest, PlaceKey::farthest, "A shift, in frames,");
        requireIn(key.y, -PlaceKey::farthest, PlaceKey::farthest, "A shift, in frames,");
    }
    requireIn(finish.hideEdges.scale, 1, HideEdges::most, "The scale that hides edges");
    requireIn(finish.hideEdges.fade, 0, HideEdges::longestFade, "The fade of the scale that hides edges");
    if (finish.hideEdges.from.has_value() != finish.hideEdges.to.has_value() ||
        (finish.hideEdges.from && *finish.hideEdges.to < *finish.hideEdges.from))
        throw Error("The stretch in which edges are hidden ends before it begins.");
    validatePath(finish.hold.path);
    validatePath(finish.hold.second);
    requireIn(finish.hold.share, 0, 100, "The share of the motion that is held");
    requireIn(finish.hold.reach, Hold::least, Hold::most, "The reach of what is held");
    requireIn(finish.hold.chosen.x, -PlaceKey::farthest, PlaceKey::farthest,
              "The place to hold at, in frames,");
    requireIn(finish.hold.chosen.y, -PlaceKey::farthest, PlaceKey::farthest,
              "The place to hold at, in frames,");
    validateCalm(finish.calm);
    requireOrder(finish.tones, "tone");
    for (const ToneKey& tone : finish.tones)
        validate(tone);
    validateTexture(finish.texture);
    if (finish.smears.size() > Finish::mostSmears)
        throw Error("There are more than " + std::to_string(Finish::mostSmears) + " smears.");
    for (const Smear& one : finish.smears) {
        if (one.to < one.from) throw Error("A smear ends before it begins.");
        requireIn(one.length, 0, Smear::longest, "The length of a smear, in frames,");
        requireIn(one.angle, -360, 360, "The direction of a smear");
        requireIn(one.turn, -360, 360, "The turn of a smear");
        requireIn(one.bulge, 0, 100, "The bulge of a smear");
    }
}

double hidingScaleAt(const HideEdges& hide, const Rational& place) {
    if (!hide.from) return hide.scale;
    const double at = place.toDouble();
    const double from = hide.from->toDouble();
    const double to = hide.to->toDouble();
    const double outside = std::max({from - at, at - to, 0.0});
    if (outside <= 0) return hide.scale;
    if (outside >= hide.fade) return 1;
    const double u = 1 - outside / hide.fade;
    return 1 + (hide.scale - 1) * u * u * (3 - 2 * u);
}

} // namespace yarngap
