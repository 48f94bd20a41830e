// The fields of a shot and of all that belongs to it, each told once. Internal to project/; docs/formats.md
// says what they mean. A field is added with a line here and one there.
#pragma once

#include "core/project/finish_fields.h"
#include "core/project/json_fields.h"
#include "core/shot/shot.h"
#include "core/time/map_text.h"

#include <filesystem>

namespace yarngap {

inline constexpr std::int64_t lastFrame = 1'000'000'000;

inline const auto methodWord = Choice{[](Method method) { return keyOf(method); }, parseMethod};
inline const auto qualityWord = Choice{[](FlowQuality quality) { return name(quality); }, parseFlowQuality};

/// "top" or "bottom" field first.
struct FieldOrder {
    [[nodiscard]] Json write(bool topFirst) const { return topFirst ? "top" : "bottom"; }
    [[nodiscard]] bool read(const Json& json) const;
};
/// "full" or "limited".
struct Range {
    [[nodiscard]] Json write(bool full) const { return full ? "full" : "limited"; }
    [[nodiscard]] bool read(const Json& json) const;
};
struct FieldUseWord {
    [[nodiscard]] Json write(FieldUse use) const;
    [[nodiscard]] FieldUse read(const Json& json) const;
};
/// [first, last, kind, order, phase].
struct PulldownForm {
    [[nodiscard]] Json write(const PulldownRun& run) const;
    [[nodiscard]] PulldownRun read(const Json& json) const;
};
/// [x, y, width, height].
struct DamagedPlaceForm {
    [[nodiscard]] Json write(const DamagedPlace& place) const {
        return {place.x, place.y, place.width, place.height};
    }
    [[nodiscard]] DamagedPlace read(const Json& json) const;
};
/// 0 to 1.
struct Share {
    [[nodiscard]] Json write(double share) const;
    [[nodiscard]] double read(const Json& json) const;
};
/// [x, y].
struct PointForm {
    [[nodiscard]] Json write(const MattePoint& point) const { return {point.x, point.y}; }
    [[nodiscard]] MattePoint read(const Json& json) const;
};

/// [[x, y], [x, y]], from and to.
struct GuidePairForm {
    [[nodiscard]] Json write(const GuidePair& pair) const {
        return {PointForm().write(pair.from), PointForm().write(pair.to)};
    }
    [[nodiscard]] GuidePair read(const Json& json) const;
};

inline constexpr auto tellInBetweens = [](auto& fields, auto& settings) {
    auto& flow = settings.flow;
    auto& s = settings.synthesis;
    fields.value("quality", flow.quality, qualityWord);
    fields.value("finalQuality", settings.finalQuality, qualityWord);
    fields.value("stiffness", flow.stiffness, Whole{0, FlowOptions::stiffest});
    fields.value("analyseOn", flow.analyseOn, Choice{[](AnalyseOn v) { return name(v); }, parseAnalyseOn});
    fields.value("inFront", s.inFront, Choice{[](InFront v) { return name(v); }, parseInFront});
    fields.value("sides", s.sides, Choice{[](Sides v) { return name(v); }, parseSides});
    fields.value("trustLimit", s.trustLimit, Whole{0, SynthesisOptions::strictestTrust});
    fields.value("standIn", s.standIn, Choice{[](StandIn v) { return name(v); }, parseStandIn});
    fields.value("evenTexture", s.evenTexture, Flag{});
    fields.value("bridgeRepeats", s.bridgeRepeats, Flag{});
    fields.value("bendPaths", s.bendPaths, Flag{});
    fields.value("keepGrain", s.keepGrain, Flag{});
    fields.value("linearLight", s.linearLight, Flag{});
    fields.value("shutterAngle", s.shutterAngle, Whole{0, SynthesisOptions::largestShutterAngle});
};

inline constexpr auto tellTake = [](auto& fields, auto& take) {
    fields.needs({"name", "method", "inBetweens"});
    fields.value("name", take.name, Words{});
    fields.value("method", take.method, methodWord);
    fields.object("inBetweens", take.inBetweens, tellInBetweens);
};

inline constexpr auto tellStretch = [](auto& fields, auto& stretch) {
    fields.needs({"from", "to", "method"});
    fields.value("from", stretch.first, Whole{-1, lastFrame});
    fields.value("to", stretch.last, Whole{-1, lastFrame});
    fields.value("method", stretch.method, methodWord);
};

inline constexpr auto tellGuide = [](auto& fields, auto& guide) {
    fields.needs({"first", "last", "pairs"});
    fields.value("first", guide.first, Whole{-1, lastFrame});
    fields.value("last", guide.last, Whole{-1, lastFrame});
    fields.plainList("pairs", guide.pairs, Guide::mostPairs, GuidePairForm{});
};

inline constexpr auto tellMendChanges = [](auto& fields, auto& c) {
    fields.optional("method", c.method, methodWord);
    fields.optional("sampleFrom", c.sampleFrom,
                    Choice{[](SampleFrom v) { return name(v); }, parseSampleFrom});
    fields.optional("quality", c.quality, qualityWord);
    fields.optional("stiffness", c.stiffness, Whole{0, FlowOptions::stiffest});
    fields.optional("analyseOn", c.analyseOn, Choice{[](AnalyseOn v) { return name(v); }, parseAnalyseOn});
    fields.optional("inFront", c.inFront, Choice{[](InFront v) { return name(v); }, parseInFront});
    fields.optional("sides", c.sides, Choice{[](Sides v) { return name(v); }, parseSides});
    fields.optional("trustLimit", c.trustLimit, Whole{0, SynthesisOptions::strictestTrust});
    fields.optional("standIn", c.standIn, Choice{[](StandIn v) { return name(v); }, parseStandIn});
    fields.optional("bendPaths", c.bendPaths, Flag{});
    fields.optionalObject("guide", c.guide, tellGuide);
};

inline constexpr auto tellPatchKey = [](auto& fields, auto& key) {
    fields.needs({"at", "points"});
    fields.value("at", key.at, Exact{});
    fields.plainList("points", key.points, Patch::mostPoints, PointForm{});
};

inline constexpr auto tellPatch = [](auto& fields, auto& patch) {
    const Patch usual;
    fields.needs({"keys"});
    fields.list("keys", patch.keys, Patch::mostKeys, tellPatchKey);
    fields.value("shows", patch.shows, Choice{[](PatchShows v) { return name(v); }, parsePatchShows});
    fields.value("blur", patch.blur, Whole{0, Patch::mostBlur});
    fields.value("feather", patch.feather, Whole{0, Patch::mostFeather});
    fields.value("strength", patch.strength, Whole{0, 100});
    fields.unless("fade", patch.fade, usual.fade, Whole{0, Patch::mostFade});
    fields.unless("onOriginals", patch.onOriginals, usual.onOriginals, Flag{});
};

inline constexpr auto tellMend = [](auto& fields, auto& mend) {
    fields.needs({"from", "to"});
    fields.value("from", mend.gaps.first, Whole{-1, lastFrame});
    fields.value("to", mend.gaps.last, Whole{-1, lastFrame});
    fields.unless("name", mend.name, std::string(), Words{});
    fields.unless("on", mend.isOn, true, Flag{});
    fields.object("changes", mend.changes, tellMendChanges);
    fields.optionalObject("patch", mend.patch, tellPatch);
};

/// The mends of a shot; a file of them has the same form.
inline constexpr auto tellMending = [](auto& fields, auto& mending) {
    fields.list("mends", mending.mends, Mending::mostMends, tellMend);
    fields.plainList("accepted", mending.accepted, Mending::mostAccepted, Whole{-1, lastFrame});
};

inline constexpr auto tellTimeKey = [](auto& fields, auto& key) {
    fields.needs({"output", "position"});
    fields.value("output", key.output, Exact{});
    fields.value("position", key.position, Exact{});
    fields.unless("segment", key.after, Segment::constant,
                  Choice{[](Segment v) { return name(v); }, parseSegment});
    fields.optional("speed", key.speed, Exact{});
};

inline constexpr auto tellMatteKey = [](auto& fields, auto& key) {
    fields.needs({"frame", "points"});
    fields.value("frame", key.frame, Whole{-lastFrame, lastFrame});
    fields.plainList("points", key.points, Matte::mostPoints, PointForm{});
};

/// Of a project in `folder`.
inline auto tellMatteIn(const std::filesystem::path& folder) {
    return [&folder](auto& fields, auto& matte) {
        fields.value("onTop", matte.onTop, Flag{});
        fields.unless("pictures", matte.pictures, std::filesystem::path(), FileIn{folder});
        fields.value("feather", matte.feather, Whole{0, Matte::softest});
        fields.list("keys", matte.keys, Matte::mostKeys, tellMatteKey);
    };
}

inline constexpr auto tellInterpretation = [](auto& fields, auto& in) {
    constexpr std::size_t mostRuns = 100'000;
    constexpr int lastMatrix = 14; // of H.273
    fields.optional("rate", in.rate, FrameRate{});
    fields.unless("fields", in.fields, FieldUse::asCoded, FieldUseWord{});
    fields.optional("order", in.topFirst, FieldOrder{});
    fields.plainList("pulldown", in.pulldown, mostRuns, PulldownForm{});
    fields.unless("evenTimes", in.evenTimes, false, Flag{});
    fields.optional("pixelAspect", in.pixelAspect, Exact{});
    fields.optional("range", in.fullRange, Range{});
    fields.optional("matrix", in.matrix, Whole{0, lastMatrix});
    fields.unless("rotation", in.rotation, 0, Whole{0, 270});
};

inline constexpr auto tellDecision = [](auto& fields, auto& decision) {
    fields.needs({"frame", "do"});
    fields.value("frame", decision.frame, Whole{0, lastFrame});
    fields.value("do", decision.kind, Choice{[](CleanupKind v) { return name(v); }, parseCleanupKind});
    fields.unless("count", decision.count, 1, Whole{1, CleanupDecision::mostPutIn});
    fields.plainList("phases", decision.phases, CleanupDecision::mostPutIn, Exact{});
    fields.plainList("places", decision.places, CleanupDecision::mostPlaces, DamagedPlaceForm{});
    fields.unless("part", decision.part, CleanupPart::both,
                  Choice{[](CleanupPart v) { return name(v); }, parseCleanupPart});
    fields.unless("certainty", decision.certainty, 1.0, Share{});
};

/// The decisions of a shot; a file of them has the same form.
inline constexpr auto tellCleanup = [](auto& fields, auto& cleanup) {
    fields.list("decisions", cleanup.decisions, Cleanup::mostDecisions, tellDecision);
};

inline auto tellEditPlaceIn(const std::filesystem::path& folder) {
    return [&folder](auto& fields, auto& place) {
        constexpr std::int64_t lastRecord = 1'000'000'000;
        fields.needs({"rate", "recordIn", "recordOut"});
        if (!place.list.empty() || fields.has("list")) fields.value("list", place.list, FileIn{folder});
        fields.unless("title", place.title, std::string(), Words{});
        fields.unless("track", place.track, std::string(), Words{});
        fields.value("event", place.event, Whole{0, lastRecord});
        fields.value("rate", place.rate, FrameRate{});
        fields.unless("dropFrame", place.dropFrame, false, Flag{});
        fields.value("recordIn", place.recordIn, Whole{0, lastRecord});
        fields.value("recordOut", place.recordOut, Whole{0, lastRecord});
        fields.unless("reel", place.reel, std::string(), Words{});
    };
}

/// Of a project in `folder`.
inline auto tellShotIn(const std::filesystem::path& folder) {
    return [&folder](auto& fields, auto& shot) {
        fields.needs({"media"});
        fields.value("media", shot.media, FileIn{folder});
        fields.value("name", shot.name, Words{});
        fields.unless("identity", shot.identity, std::string(), Words{});
        fields.optional("from", shot.from, Whole{0, lastFrame});
        fields.optional("to", shot.to, Whole{0, lastFrame});
        fields.value("speed", shot.speed, Exact{});
        fields.list("timeMap", shot.keys, mostKeys, tellTimeKey);
        fields.optional("outputRate", shot.outputRate, FrameRate{});
        fields.value("method", shot.method, methodWord);
        fields.list("methodStretches", shot.methodStretches, mostKeys, tellStretch);
        fields.object("inBetweens", shot.inBetweens, tellInBetweens);
        fields.list("takes", shot.takes, mostTakes, tellTake);
        fields.objectUnless("mending", shot.mending, Mending(), tellMending);
        fields.objectUnless("finish", shot.finish, Finish(), tellFinish);
        fields.objectUnless("matte", shot.matte, Matte(), tellMatteIn(folder));
        fields.objectUnless("interpretation", shot.interpretation, Interpretation(), tellInterpretation);
        fields.objectUnless("cleanup", shot.cleanup, Cleanup(), tellCleanup);
        fields.optionalObject("edit", shot.edit, tellEditPlaceIn(folder));
    };
}

/// What the fields alone do not say: ranges that depend on each other. Throws Error.
void validateShot(const Shot& shot);

} // namespace yarngap
