// The fields of a finish, each told once. Internal to project/; docs/formats.md says what they mean.
#pragma once

#include "core/finish/finish.h"
#include "core/project/json_fields.h"

namespace yarngap {

/// A number from `least` to `most`, with as many decimals as count.
struct Number {
    double least, most;
    [[nodiscard]] Json write(double value) const;
    [[nodiscard]] double read(const Json& json) const;
};
/// [width, height] in pixels.
struct FrameSizeForm {
    [[nodiscard]] Json write(const FrameSize& size) const { return {size.width, size.height}; }
    [[nodiscard]] FrameSize read(const Json& json) const;
};
/// [red, green, blue], 0 to 255.
struct ColourForm {
    [[nodiscard]] Json write(const std::array<int, 3>& colour) const { return colour; }
    [[nodiscard]] std::array<int, 3> read(const Json& json) const;
};
/// [x, y] of a curve or of shares of a frame.
struct CurvePointForm {
    [[nodiscard]] Json write(const CurvePoint& p) const;
    [[nodiscard]] CurvePoint read(const Json& json) const;
};
struct SharePointForm {
    [[nodiscard]] Json write(const PicturePoint& p) const;
    [[nodiscard]] PicturePoint read(const Json& json) const;
};
/// [frame, x, y, quality], and a fifth, 1, where the editor put it.
struct FollowedPointForm {
    [[nodiscard]] Json write(const FollowedPoint& p) const;
    [[nodiscard]] FollowedPoint read(const Json& json) const;
};
/// [frame, x, y, turn, grow], and a sixth, 1, where a run begins.
struct CameraPointForm {
    [[nodiscard]] Json write(const CameraPoint& p) const;
    [[nodiscard]] CameraPoint read(const Json& json) const;
};
/// [dark, darker, brighter, bright, chroma, size].
struct GrainLookForm {
    [[nodiscard]] Json write(const GrainLook& look) const;
    [[nodiscard]] GrainLook read(const Json& json) const;
};

inline constexpr auto tellFrameChoice = [](auto& fields, auto& frame) {
    fields.optional("size", frame.size, FrameSizeForm{});
    fields.optional("pixelAspect", frame.pixelAspect, Exact{});
    fields.unless("fit", frame.fit, FrameFit::letterbox,
                  Choice{[](FrameFit v) { return name(v); }, parseFrameFit});
    fields.unless("around", frame.around, std::array<int, 3>{0, 0, 0}, ColourForm{});
};

inline constexpr auto tellPlaceKey = [](auto& fields, auto& key) {
    fields.needs({"at"});
    fields.value("at", key.at, Exact{});
    fields.value("scale", key.scale, Number{PlaceKey::least, PlaceKey::most});
    fields.value("x", key.x, Number{-PlaceKey::farthest, PlaceKey::farthest});
    fields.value("y", key.y, Number{-PlaceKey::farthest, PlaceKey::farthest});
    fields.unless("eased", key.isEased, true, Flag{});
};

inline constexpr auto tellHideEdges = [](auto& fields, auto& hide) {
    fields.value("scale", hide.scale, Number{1, HideEdges::most});
    fields.optional("from", hide.from, Exact{});
    fields.optional("to", hide.to, Exact{});
    fields.unless("fade", hide.fade, HideEdges().fade, Whole{0, HideEdges::longestFade});
};

inline constexpr auto tellHold = [](auto& fields, auto& hold) {
    constexpr std::int64_t last = 1'000'000'000;
    const Hold usual;
    fields.unless("on", hold.isOn, true, Flag{});
    fields.value("frame", hold.frame, Whole{0, last});
    fields.unless("reach", hold.reach, usual.reach, Number{Hold::least, Hold::most});
    fields.unless("at", hold.at, HoldAt::own, Choice{[](HoldAt v) { return name(v); }, parseHoldAt});
    fields.unless("chosen", hold.chosen, usual.chosen, SharePointForm{});
    fields.unless("share", hold.share, 100, Whole{0, 100});
    fields.unless("turns", hold.turns, true, Flag{});
    fields.plainList("path", hold.path, Hold::mostPoints, FollowedPointForm{});
    fields.plainList("second", hold.second, Hold::mostPoints, FollowedPointForm{});
};

inline constexpr auto tellCalm = [](auto& fields, auto& calm) {
    fields.value("by", calm.by, Choice{[](CalmBy v) { return name(v); }, parseCalmBy});
    fields.value("seconds", calm.seconds, Number{Calm::shortest, Calm::longest});
    fields.plainList("path", calm.path, Hold::mostPoints, CameraPointForm{});
};

inline constexpr auto tellTone = [](auto& fields, auto& tone) {
    const ToneKey usual;
    constexpr Number share{-10, 10}; // and validate() tells the rest
    fields.unless("at", tone.at, Rational(0), Exact{});
    fields.unless("black", tone.black, usual.black, share);
    fields.unless("white", tone.white, usual.white, share);
    fields.unless("gamma", tone.gamma, usual.gamma, share);
    fields.unless("saturation", tone.saturation, usual.saturation, share);
    fields.plainList("curve", tone.curve, ToneKey::mostPoints, CurvePointForm{});
};

inline constexpr auto tellTexture = [](auto& fields, auto& t) {
    const Texture usual;
    constexpr Number radius{Texture::leastRadius, Texture::mostRadius};
    fields.unless("soften", t.soften, usual.soften, Whole{0, 100});
    fields.unless("softenRadius", t.softenRadius, usual.softenRadius, radius);
    fields.unless("sharpen", t.sharpen, usual.sharpen, Whole{0, Texture::mostSharpen});
    fields.unless("sharpenRadius", t.sharpenRadius, usual.sharpenRadius, radius);
    fields.unless("grain", t.grain, GrainKind::none,
                  Choice{[](GrainKind v) { return name(v); }, parseGrainKind});
    fields.unless("grainStrength", t.grainStrength, usual.grainStrength, Number{0, Texture::mostGrain});
    fields.unless("grainSize", t.grainSize, usual.grainSize, Number{0, Texture::mostGrainSize});
    fields.unless("own", t.own, GrainLook(), GrainLookForm{});
};

inline constexpr auto tellSmear = [](auto& fields, auto& smear) {
    const Smear usual;
    constexpr Number angle{-360, 360};
    fields.needs({"from", "to"});
    fields.value("from", smear.from, Exact{});
    fields.value("to", smear.to, Exact{});
    fields.value("peak", smear.peak, Choice{[](SmearPeak v) { return name(v); }, parseSmearPeak});
    fields.value("length", smear.length, Number{0, Smear::longest});
    fields.value("angle", smear.angle, angle);
    fields.unless("turn", smear.turn, usual.turn, angle);
    fields.unless("bulge", smear.bulge, usual.bulge, Whole{0, 100});
};

/// The finish of a shot; a file of one has the same form.
inline constexpr auto tellFinish = [](auto& fields, auto& finish) {
    fields.objectUnless("frame", finish.frame, FrameChoice(), tellFrameChoice);
    fields.list("places", finish.places, Finish::mostKeys, tellPlaceKey);
    fields.objectUnless("hideEdges", finish.hideEdges, HideEdges(), tellHideEdges);
    fields.objectUnless("hold", finish.hold, Hold(), tellHold);
    fields.objectUnless("calm", finish.calm, Calm(), tellCalm);
    fields.list("tone", finish.tones, Finish::mostKeys, tellTone);
    fields.objectUnless("texture", finish.texture, Texture(), tellTexture);
    fields.list("smears", finish.smears, Finish::mostSmears, tellSmear);
};

} // namespace yarngap
