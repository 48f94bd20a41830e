#include "core/project/preset.h"

#include "core/error.h"
#include "core/project/json_text.h"
#include "core/project/shot_fields.h"

#include <algorithm>

namespace yarngap {

namespace {

template <typename Change>
void changePlaces(Finish& finish, const Change& change) {
    for (PlaceKey& key : finish.places)
        change(key.at);
    for (ToneKey& key : finish.tones)
        change(key.at);
    for (Smear& smear : finish.smears) {
        change(smear.from);
        change(smear.to);
    }
    if (finish.hideEdges.from) change(*finish.hideEdges.from);
    if (finish.hideEdges.to) change(*finish.hideEdges.to);
}

constexpr auto tellKey = [](auto& fields, auto& key) {
    fields.needs({"place", "segment", "speed", "seconds"});
    fields.value("place", key.place, Exact{});
    fields.value("segment", key.after, Choice{[](Segment v) { return name(v); }, parseSegment});
    fields.value("speed", key.speed, Exact{});
    fields.value("seconds", key.seconds, Exact{});
    fields.optional("through", key.through, Exact{});
};

constexpr auto tellPreset = [](auto& fields, auto& preset) {
    fields.needs({"speed", "method"});
    fields.value("speed", preset.speed, Exact{});
    fields.list("keys", preset.keys, mostKeys, tellKey);
    fields.value("method", preset.method, methodWord);
    fields.object("inBetweens", preset.inBetweens, tellInBetweens);
    fields.objectUnless("finish", preset.finish, Finish(), tellFinish);
};

/// A finish by relation: keys and stretches as shares of the trim; what was measured of the shot stays with
/// it.
Finish byRelation(Finish finish, const Timing& timing) {
    const Rational frames(timing.sourceFrames());
    const auto toShare = [&](Rational& at) { at = (at - Rational(timing.from)) / frames; };
    changePlaces(finish, toShare);
    finish.hold = {};
    finish.calm.path.clear();
    finish.texture.own = {};
    for (Smear& smear : finish.smears)
        smear.angle = 0;
    return finish;
}

} // namespace

Preset presetOf(const Shot& shot, const Timing& timing) {
    Preset preset{.speed = timing.speed,
                  .keys = {},
                  .method = shot.method,
                  .inBetweens = shot.inBetweens,
                  .finish = byRelation(shot.finish, timing)};
    const Rational frames(timing.sourceFrames());
    for (std::size_t i = 0; i < timing.keys.size(); ++i) {
        const TimeKey& key = timing.keys[i];
        Preset::Key kept{.place = (key.position - Rational(timing.from)) / frames, .through = {}};
        if (key.speed) kept.through = timing.speedOf(*key.speed);
        if (i + 1 < timing.keys.size()) {
            const Rational length = timing.keys[i + 1].output - key.output;
            const Rational way = timing.keys[i + 1].position - key.position;
            kept.after = way == Rational(0) ? Segment::hold : key.after;
            if (kept.after == Segment::hold)
                kept.seconds = length / timing.outputRate.value();
            else
                kept.speed = timing.speedOf(way / length);
        }
        preset.keys.push_back(kept);
    }
    return preset;
}

Timing withPreset(const Preset& preset, Timing timing) {
    if (preset.keys.empty()) return withSpeed(timing, preset.speed);
    const Rational frames(timing.sourceFrames());
    TimeKeys keys;
    for (std::size_t i = 0; i < preset.keys.size(); ++i) {
        const Preset::Key& kept = preset.keys[i];
        TimeKey key{0, Rational(timing.from) + Rational((kept.place * frames).round()), kept.after, {}};
        if (kept.through) key.speed = timing.stepAt(*kept.through);
        if (i > 0) {
            const Preset::Key& before = preset.keys[i - 1];
            const TimeKey& last = keys.back();
            const Rational way = key.position - last.position;
            Rational length = before.seconds * timing.outputRate.value();
            if (before.after != Segment::hold) {
                const Rational step = timing.stepAt(before.speed);
                if (step == Rational(0) || way / step <= Rational(0))
                    throw Error("This shot is too short for that preset; its keys would fall together.");
                length = way / step;
                if (before.after == Segment::eased) length = landedLength(last.output, length);
            }
            key.output = last.output + length;
        }
        keys.push_back(key);
    }
    timing.keys = std::move(keys);
    validate(timing);
    return timing;
}

Finish finishFrom(const Preset& preset, const Timing& timing, const Finish& own) {
    Finish finish = preset.finish;
    const Rational frames(timing.sourceFrames());
    // Places come to lie on whole frames, and no two keys on one.
    const auto toPlace = [&](Rational& at) { at = Rational(timing.from) + Rational((at * frames).round()); };
    changePlaces(finish, toPlace);
    const auto apart = [](auto& keys) {
        keys.erase(
            std::unique(keys.begin(), keys.end(), [](const auto& a, const auto& b) { return a.at == b.at; }),
            keys.end());
    };
    apart(finish.places);
    apart(finish.tones);
    finish.hold = own.hold;
    finish.calm.path = own.calm.path;
    finish.texture.own = own.texture.own;
    validate(finish);
    return finish;
}

std::string presetText(const Preset& preset) {
    return writeObject(preset, Json::object(), tellPreset).dump();
}

Preset parsePreset(std::string_view text) {
    Json json = jsonFrom(text);
    if (json.is_discarded() || !json.is_object())
        throw Error("This preset is damaged. Save it again from a shot.");
    // Earlier versions kept the quality alone.
    if (json.contains("quality")) json["inBetweens"] = {{"quality", json["quality"]}};
    Json unknown;
    return readObject<Preset>(std::move(json), unknown, tellPreset);
}

} // namespace yarngap
